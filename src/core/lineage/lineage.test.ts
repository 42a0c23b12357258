import { describe, expect, it } from 'vitest';
import { memorySource } from '../bytes/byte-source';
import { compareImages } from '../patch/compare-images';
import { nodePorts } from '@/platform/node/node-ports';
import { entry, FINGERPRINT, stockEntries, stockImage } from '../../../tests/fixtures/images';
import type { KnownImage, LineageContext } from './judge-lineage';
import { judgeLineage } from './judge-lineage';
import { monthToMonth } from './month-to-month';

const OTHER = FINGERPRINT.replace('260905', '261005');
const image = (change: Partial<KnownImage>): KnownImage => ({
  sha256: 's',
  partition: 'init_boot',
  role: 'stock',
  fingerprint: FINGERPRINT,
  patchLevel: '2026-09-05',
  kit: null,
  stockSha256: null,
  ...change,
});
const stock = image({});
const patched = image({ sha256: 'p', role: 'patched', kit: 'burrow 7.3', stockSha256: 's' });
const context = (change: Partial<LineageContext> = {}): LineageContext => ({
  fileName: null,
  installedFingerprint: FINGERPRINT,
  wantedPartition: 'init_boot',
  known: [stock, patched],
  ...change,
});
const notes = (one: KnownImage, change: Partial<LineageContext> = {}) =>
  judgeLineage(one, context(change)).notes.map(({ code }) => code);

describe('judgeLineage', () => {
  it('recognises stock, kit and build', () => {
    const { chain, says } = judgeLineage(patched, context());
    expect(chain.map((one) => one.sha256)).toEqual(['p', 's']);
    expect(says).toEqual({
      partition: 'init_boot',
      role: 'patched',
      build: 'HC1.260905.007',
      kit: 'burrow 7.3',
      from: { sha256: 's', role: 'stock' },
    });
    expect(judgeLineage(image({ role: 'unknown' }), context()).says).toMatchObject({
      role: 'unknown',
      from: null,
    });
  });
  it.each<[string, KnownImage, Partial<LineageContext>, string[]]>([
    ['all is well', patched, {}, []],
    [
      'it was renamed to another month',
      stock,
      { fileName: 'init_boot-HC1.261005.001.img' },
      ['build-renamed'],
    ],
    ['it was renamed to another partition', stock, { fileName: 'boot.img' }, ['partition-renamed']],
    ['its name says the same', stock, { fileName: 'init_boot-HC1.260905.007.img' }, []],
    ['it is last month’s', stock, { installedFingerprint: OTHER }, ['stale']],
    [
      'it was patched twice',
      image({ sha256: 'pp', role: 'patched', stockSha256: 'p' }),
      {},
      ['doubly-patched'],
    ],
    ['its stock is missing', patched, { known: [patched] }, ['stock-missing']],
    ['it is for another partition', { ...patched, partition: 'boot' }, {}, ['wrong-partition']],
    [
      'it is the look-alike’s',
      image({ fingerprint: FINGERPRINT.replace('hill_eu', 'hill_am') }),
      {},
      ['wrong-handset'],
    ],
    [
      'it is another handset’s',
      image({ fingerprint: FINGERPRINT.replaceAll('hill', 'dale') }),
      {},
      ['wrong-handset'],
    ],
  ])('%s', (_what, one, change, expected) => expect(notes(one, change)).toEqual(expected));
  it('goes round no circle', () => {
    const [a, b] = [
      image({ sha256: 'a', role: 'patched', stockSha256: 'b' }),
      image({ sha256: 'b', role: 'patched', stockSha256: 'a' }),
    ];
    expect(judgeLineage(a, context({ known: [a, b] })).chain).toHaveLength(2);
  });
});

describe('monthToMonth', () => {
  const months = async (before: Uint8Array, after: Uint8Array) =>
    monthToMonth(await compareImages(memorySource(before), memorySource(after), nodePorts));
  const stocked = (change: object = {}) => stockImage({ fingerprint: FINGERPRINT, ...change });

  it('of the same image', async () =>
    expect(await months(await stocked(), await stocked())).toMatchObject({
      says: { code: 'same' },
      expectWorks: 'yes',
    }));
  it('of another patch level only', async () => {
    expect(await months(await stocked(), await stocked({ fingerprint: OTHER }))).toMatchObject({
      says: { code: 'patch-level-only' },
      expectWorks: 'yes',
    });
  });
  it('of a changed ramdisk', async () => {
    const entries = [...stockEntries(), entry('new', 'file')];
    const result = await months(await stocked(), await stocked({ entries }));
    expect(result).toMatchObject({
      says: { code: 'ramdisk', counts: { added: 1, removed: 0, changed: 0, moved: 0 }, gone: [] },
      expectWorks: 'likely',
    });
  });
  it('of an entry that a patch may look for and that is gone', async () => {
    const entries = stockEntries().filter((one) => !new TextDecoder().decode(one.name).includes('fstab'));
    const { says } = await months(await stocked(), await stocked({ entries }));
    expect(says).toMatchObject({ code: 'ramdisk', gone: [expect.stringContaining('fstab.demo')] });
  });
  it('of another layout', async () => {
    const result = await months(
      await stocked({ version: 3, partition: 'boot' }),
      await stocked({ version: 4, partition: 'boot' }),
    );
    expect(result).toMatchObject({
      says: { code: 'header-version', from: '3', to: '4' },
      expectWorks: 'not known',
    });
  });
});

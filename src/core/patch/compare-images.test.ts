import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import type { StockOptions } from '../../../tests/fixtures/images';
import {
  entry,
  folder,
  kitZip,
  seeded,
  stockEntries,
  stockImage,
  utf8,
} from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { readKit } from '../kits/read-kit';
import { inspectImage } from '../packages/inspect-image';
import { listRamdisk } from '../packages/list-ramdisk';
import { compareImages } from './compare-images';
import { patchImage } from './patch-image';
import { unpatchImage } from './unpatch-image';
import { whatChanged } from './what-changed';

const source = (bytes: Uint8Array) => memorySource(bytes, 'image');
const compare = (a: Uint8Array, b: Uint8Array) => compareImages(source(a), source(b), nodePorts);
const kitOf = async (change: object = {}) => (await readKit(source(await kitZip(change)), nodePorts)).kit;
const patched = async (stock: Uint8Array, change: object = {}) =>
  (await patchImage(source(stock), await kitOf(change), nodePorts)).bytes;
describe('two images side by side', () => {
  it('that are the same say so', async () => {
    const stock = await stockImage();
    const result = await compare(stock, stock);
    expect(result.same).toBe(true);
    expect(result.entries).toMatchObject({
      same: stockEntries().length,
      added: [],
      removed: [],
      changed: [],
      moved: [],
    });
    expect([...result.header, ...result.avb].every((value) => value.same)).toBe(true);
  });

  it('tell what a patch did: added, removed, changed, moved', async () => {
    const stock = await stockImage();
    const { entries, sections } = await compare(stock, await patched(stock));
    expect(entries?.moved).toMatchObject([{ from: 'init', to: '.burrow/init.stock' }]);
    expect(entries?.removed.map(({ name }) => name)).toEqual(['verity_key']);
    expect(entries?.added.map(({ name }) => name)).toEqual([
      '.burrow',
      '.burrow/su',
      '.burrow/provenance.json',
      'sbin-su',
    ]);
    expect(entries?.changed.map(({ name, what }) => [name, what[0]])).toEqual([
      ['init', 'content'],
      ['first_stage_ramdisk/fstab.demo', 'content'],
    ]);
    expect(sections.find(({ name }) => name === 'ramdisk')?.verdict).toBe('changed');
  });

  it('say in a few lines what a patch did, and nothing of what follows from it', async () => {
    const stock = await stockImage();
    const own = whatChanged(await compare(stock, await patched(stock)));
    expect(own).toEqual([
      { code: 'replaced', entry: 'init', keptAs: '.burrow/init.stock' },
      { code: 'replaced', entry: 'first_stage_ramdisk/fstab.demo', keptAs: null },
      { code: 'added', entry: '.burrow' },
      { code: 'added', entry: '.burrow/su' },
      { code: 'added', entry: '.burrow/provenance.json' },
      { code: 'added', entry: 'sbin-su' },
      { code: 'removed', entry: 'verity_key' },
      { code: 'field', field: 'command line' },
    ]);
    expect(whatChanged(await compare(stock, stock))).toEqual([]);
  });
  it('say what changed in the kernel, of the command line and of rights alone', async () => {
    const kernel = seeded(3, 9000);
    const before = await stockImage({ kernel, entries: [entry('init', 'x')] });
    const after = await stockImage({
      kernel: kernel.map((byte, i) => (i === 8000 ? byte ^ 1 : byte)),
      entries: [entry('init', 'x', { mode: 0o100755 })],
    });
    const longer = await stockImage({ kernel: seeded(3, 9100), entries: [entry('init', 'x')] });
    expect(whatChanged(await compare(before, after))).toEqual([
      { code: 'marked', entry: 'init', differs: ['mode'] },
      { code: 'section', section: 'kernel', verdict: 'changed', grewBytes: 0 },
    ]);
    expect(whatChanged(await compare(before, longer))).toEqual([
      { code: 'section', section: 'kernel', verdict: 'changed', grewBytes: 100 },
    ]);
    const line = { code: 'field', field: 'command line' };
    const lined = await stockImage({ kernel, entries: [entry('init', 'x')], cmdline: 'quiet=1' });
    expect(whatChanged(await compare(before, lined))).toEqual([line]);
  });

  it('tell mode, owner and kind apart from content', async () => {
    const a = await stockImage({
      entries: [folder('d'), entry('x', 'same', { mode: 0o100644 }), entry('y', 'a')],
    });
    const b = await stockImage({
      entries: [folder('d'), entry('x', 'same', { mode: 0o100600 }), entry('y', 'a', { mode: 0o120777 })],
    });
    expect((await compare(a, b)).entries?.changed.map(({ name, what }) => [name, what])).toEqual([
      ['x', ['mode']],
      ['y', ['kind', 'mode']],
    ]);
  });

  it('count the last of several entries of one name, as the kernel does', async () => {
    const a = await stockImage({ entries: [entry('x', 'one'), entry('x', 'two')] });
    const b = await stockImage({ entries: [entry('x', 'two')] });
    expect((await compare(a, b)).entries).toMatchObject({ same: 1, added: [], removed: [], changed: [] });
  });

  it('without a ramdisk compare the rest', async () => {
    const options: StockOptions = { partition: 'boot', kernel: seeded(1, 9000), entries: [] };
    const a = await stockImage(options);
    expect(
      (await compare(a, await stockImage({ ...options, kernel: seeded(2, 9000) }))).sections.find(
        ({ name }) => name === 'kernel',
      )?.verdict,
    ).toBe('changed');
  });
});

describe('unpatching', () => {
  const SIMPLE = {
    steps: [
      { do: 'mkdir', path: '.burrow', mode: '0750' },
      { do: 'keep', path: 'init', as: '.burrow/init.stock' },
      { do: 'add', path: 'init', from: 'files/init', mode: '0750' },
      {
        do: 'write',
        path: '.burrow/provenance.json',
        mode: '0640',
        text: '{"stock":"{{stock.sha256}}","kit":"{{kit.id}} {{kit.version}}"}',
      },
      { do: 'link', path: 'sbin-su', to: '.burrow/su' },
      { do: 'cmdline', append: 'burrow=1' },
    ],
  };

  it('with the stock image gives that image, the patch proved on the way', async () => {
    const stock = await stockImage();
    const result = await unpatchImage(source(await patched(stock)), await kitOf(), source(stock), nodePorts);
    expect(result.bytes).toEqual(stock);
    expect(result.exact).toBe(true);
  });

  it('with the stock image, whatever became of its verified-boot data', async () => {
    const stock = await stockImage();
    const { bytes } = await patchImage(source(stock), await kitOf(), nodePorts, { avb: { mode: 'rehash' } });
    const result = await unpatchImage(source(bytes), await kitOf(), source(stock), nodePorts);
    expect(result.bytes).toEqual(stock);
  });

  it('refuses another stock image, and another kit', async () => {
    const stock = await stockImage();
    const image = await patched(stock);
    const other = await stockImage({ entries: [...stockEntries(), entry('later', 'x')] });
    expect(
      await codeOf(async () => unpatchImage(source(image), await kitOf(), source(other), nodePorts)),
    ).toBe('wrong-source');
    expect(
      await codeOf(async () => unpatchImage(source(image), await kitOf(SIMPLE), source(stock), nodePorts)),
    ).toBe('wrong-source');
  });

  it('without it takes every step back that left enough behind', async () => {
    const stock = await stockImage();
    const result = await unpatchImage(
      source(await patched(stock, SIMPLE)),
      await kitOf(SIMPLE),
      null,
      nodePorts,
    );
    const names = async (bytes: Uint8Array) =>
      (await listRamdisk(source(bytes), nodePorts)).archives
        .flatMap(({ entries }) => entries.map((one) => `${one.name} ${one.sha256} ${one.mode} ${one.ino}`))
        .sort();
    expect(await names(result.bytes)).toEqual(await names(stock));
    expect(result.exact).toBe(false);
    expect(result.notes.join()).toContain('not byte for byte');
    expect((await inspectImage(source(result.bytes), nodePorts)).cmdline).toBe('console=null');
  });

  it('without it names the step that can’t be taken back, and the stock image that is needed', async () => {
    const stock = await stockImage();
    const image = await patched(stock);
    const error = await errorOf(async () => unpatchImage(source(image), await kitOf(), null, nodePorts));
    expect(error.code).toBe('not-found');
    expect(error.message).toContain('replaceText');
    expect(error.details?.['stockSha256']).toMatch(/^[0-9a-f]{64}$/);
  });

  it('refuses an image that the kit did not make', async () => {
    expect(
      await codeOf(async () =>
        unpatchImage(source(await stockImage()), await kitOf(SIMPLE), null, nodePorts),
      ),
    ).toBe('not-found');
    expect(
      await codeOf(async () =>
        unpatchImage(source(utf8('x'.repeat(5000))), await kitOf(SIMPLE), null, nodePorts),
      ),
    ).toBe('bad-magic');
  });
});

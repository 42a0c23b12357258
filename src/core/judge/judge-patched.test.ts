import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import type { StockOptions } from '../../../tests/fixtures/images';
import {
  entry,
  FINGERPRINT,
  kitZip,
  seeded,
  stockEntries,
  stockImage,
  utf8,
} from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { sha256Hex } from '../bytes/digest';
import type { CpioEntry } from '../formats/cpio/cpio-archive';
import { TYPE } from '../formats/cpio/cpio-archive';
import { readKit } from '../kits/read-kit';
import { patchImage } from '../patch/patch-image';
import { judgePatched } from './judge-patched';
import { fingerprintsOf, readSide } from './judged-side';

const source = (bytes: Uint8Array) => memorySource(bytes, 'image');
const side = (bytes: Uint8Array) => readSide(source(bytes), nodePorts);
const kitOf = async (change: object = {}) => (await readKit(source(await kitZip(change)), nodePorts)).kit;
const patched = async (stock: Uint8Array, change: object = {}) =>
  (await patchImage(source(stock), await kitOf(change), nodePorts)).bytes;
const judge = async (stock: Uint8Array, other: Uint8Array, kit: Parameters<typeof judgePatched>[2] = null) =>
  judgePatched(await side(stock), await side(other), kit);

const NEXT = 'club/hill_eu/hill:16/HC1.261005.001/9002:user/release-keys';
const props = (fingerprint: string, level: string) =>
  entry(
    'etc/props.default',
    `ro.build.fingerprint=${fingerprint}\nro.build.version.security_patch=${level}\n`,
  );
const PROPS = props(FINGERPRINT, '2026-09-05');
const INIT = seeded(7, 20_000);
const run = { mode: TYPE.file | 0o750 };
const without = (...names: string[]) =>
  stockEntries().filter(({ name }) => !names.includes(new TextDecoder().decode(name)));

/** The stock image as a provider without a kit patches it: `init` replaced, the old one kept. */
const provider = (init: Uint8Array, ...more: CpioEntry[]) => [
  ...without('init'),
  entry('init', seeded(31, 9000), run),
  entry('wick/kept/init', init, run),
  ...more,
];
const image = (entries: readonly CpioEntry[], options: StockOptions = {}) =>
  stockImage({ footer: false, entries, ...options });

describe('an image patched elsewhere', () => {
  it('that a kit made belongs to the stock image that its note names, and to no other', async () => {
    const stock = await stockImage();
    const good = await judge(stock, await patched(stock), await kitOf());
    expect(good).toMatchObject({ belongs: 'yes', times: 1, unexpected: [], same: false });
    expect(good.changes.moved).toEqual(['.burrow/init.stock']);
    expect(good.changes.changed).toContain('init');
    const other = await stockImage({ entries: [...stockEntries(), entry('later', 'x')] });
    expect(await judge(other, await patched(stock))).toMatchObject({ belongs: 'no', times: 1 });
  });

  it('whose kit is not at hand: what it replaces without a copy is not expected', async () => {
    const stock = await stockImage();
    const change = {
      steps: [
        { do: 'mkdir', path: '.burrow', mode: '0750' },
        { do: 'replaceText', path: 'first_stage_ramdisk/fstab.demo', find: ',verify', with: '' },
        {
          do: 'write',
          path: '.burrow/provenance.json',
          mode: '0640',
          text: '{"stock":"{{stock.sha256}}","kit":"{{kit.id}} {{kit.version}}"}',
        },
      ],
    };
    const made = await patched(stock, change);
    const { belongs, unexpected } = await judge(stock, made);
    expect(belongs).toBe('yes');
    expect(unexpected).toEqual([
      { code: 'entry', name: 'first_stage_ramdisk/fstab.demo', what: ['content'] },
    ]);
    expect((await judge(stock, made, await kitOf(change))).unexpected).toEqual([]);
    // another kit's word counts for nothing
    expect((await judge(stock, made, await kitOf({ ...change, version: '9.9' }))).unexpected).toHaveLength(1);
  });

  it('without note and footer belongs where all that it did not replace is the stock’s', async () => {
    const stock = await image([...stockEntries(), PROPS]);
    const made = await image(provider(INIT, PROPS));
    expect(await judge(stock, made)).toMatchObject({
      belongs: 'yes',
      times: 1,
      by: [],
      build: { stock: FINGERPRINT, patched: FINGERPRINT },
      unexpected: [],
    });
    const plain = await judge(await image(stockEntries()), await image(provider(INIT)));
    expect(plain).toMatchObject({ belongs: 'yes', times: 1 });
    expect(plain.lines.find(({ point }) => point.code === 'note')?.ok).toBeNull();
  });

  it('of another month that lost its footer is found by the property file in its ramdisk', async () => {
    const stock = await image([...stockEntries(), PROPS]);
    const stale = await image(
      provider(
        INIT,
        props(NEXT, '2026-10-05'),
        entry('wick/note', `kit=Wick 2\nstock=${await sha256Hex(nodePorts.digests, stock)}\n`),
      ),
    );
    const result = await judge(stock, stale);
    expect(result).toMatchObject({ belongs: 'no', times: 1, by: ['Wick 2'] });
    expect(result.lines.filter(({ ok }) => ok === false).map(({ point }) => point.code)).toContain(
      'property',
    );
    expect(fingerprintsOf(await side(stale))).toEqual([NEXT]);
  });

  it('whose stock says its build in verified-boot data, and it in its ramdisk only, is held against it', async () => {
    const stock = await stockImage();
    expect(await judge(stock, await image(provider(INIT, PROPS)))).toMatchObject({ belongs: 'yes' });
    expect(await judge(stock, await image(provider(INIT, props(NEXT, '2026-10-05'))))).toMatchObject({
      belongs: 'no',
    });
  });

  it('that says nothing and replaced without a copy can’t be told', async () => {
    const stock = await image(stockEntries());
    const result = await judge(
      stock,
      await image([...without('init'), entry('init', seeded(31, 9000), run)]),
    );
    expect(result).toMatchObject({ belongs: "can't tell", times: 0 });
    expect(result.unexpected).toEqual([{ code: 'entry', name: 'init', what: ['content'] }]);
  });

  it('is told how often it was patched', async () => {
    const stock = await image([...stockEntries(), PROPS]);
    const once = provider(INIT, PROPS);
    const note = (kit: string, from: string) =>
      entry(`${kit}/note.json`, JSON.stringify({ kit, stock: from }));
    const times = async (...entries: readonly CpioEntry[]) =>
      (await judge(stock, await image(entries))).times;
    const own = await sha256Hex(nodePorts.digests, stock);
    expect(await times(...stockEntries(), PROPS)).toBe(0);
    expect(await times(...once)).toBe(1);
    // a note and a kept copy of one provider count once
    expect(await times(...once, note('Wick', own))).toBe(1);
    // the same note in two files too
    expect(await times(...once, note('Wick', own), entry('w', `kit=Wick\nstock=${own}\n`))).toBe(1);
    // a kept init below a kept init
    const again = [...provider(seeded(31, 9000), PROPS), entry('wick/kept/kept/init', INIT, run)];
    expect(await times(...again)).toBe(2);
    // patched over itself: the copy of the stock's is gone
    expect(await times(...provider(seeded(31, 9000), PROPS))).toBe(2);
    // two providers, each with a note
    expect(await times(...once, note('Wick', own), note('Silt', 'ab'.repeat(32)))).toBe(2);
  });

  it('keeps the copy of another build’s init for one patch only', async () => {
    const stock = await image([...stockEntries(), PROPS]);
    const stale = await image(provider(seeded(99, 20_000), props(NEXT, '2026-10-05')));
    expect(await judge(stock, stale)).toMatchObject({ belongs: 'no', times: 1 });
  });

  it.each<[string, StockOptions, string, string]>([
    ['another kernel', { kernel: seeded(9, 9000) }, 'no', 'section'],
    ['another command line', { cmdline: 'console=ttyX' }, 'yes', 'field'],
    ['another header version', { version: 3 }, 'yes', 'field'],
  ])('with %s says what is not expected', async (_what, options, belongs, code) => {
    const base: StockOptions = { partition: 'boot', kernel: seeded(1, 9000) };
    const stock = await stockImage(base);
    const result = await judge(
      stock,
      await stockImage({ ...base, ...options, entries: [...stockEntries(), entry('extra', 'x')] }),
    );
    expect(result.belongs).toBe(belongs);
    expect(result.unexpected.map((one) => one.code)).toContain(code);
  });

  it('with another kernel, though its note names this stock image, can’t be told', async () => {
    const kernel = seeded(1, 9000);
    const stock = await stockImage({ partition: 'boot', kernel });
    const own = await sha256Hex(nodePorts.digests, stock);
    const made = await stockImage({
      partition: 'boot',
      kernel: seeded(2, 9000),
      entries: [...stockEntries(), entry('note', `{"kit":"Wick","stock":"${own}"}`)],
    });
    expect(await judge(stock, made)).toMatchObject({ belongs: "can't tell" });
  });

  it.each([
    ['another partition', { partition: 'boot' }],
    ['another build’s fingerprint', { fingerprint: NEXT }],
    ['hardly any of the stock’s entries', { entries: [entry('a', '1'), entry('b', '2')] }],
  ])('of %s does not belong', async (_what, options) => {
    expect(await judge(await stockImage(), await stockImage(options))).toMatchObject({ belongs: 'no' });
  });

  it('that is the stock image itself belongs, and is not patched', async () => {
    const stock = await stockImage();
    expect(await judge(stock, stock)).toMatchObject({ belongs: 'yes', times: 0, same: true, unexpected: [] });
  });

  it('held against a stock image that was changed since it was signed can’t be told', async () => {
    const kernel = seeded(1, 9000);
    const stock = await stockImage({ partition: 'boot', kernel });
    // the digest covers the kernel: one byte of it turned over
    const damaged = stock.slice();
    damaged[3000] = damaged[3000]! ^ 0xff;
    const result = await judge(damaged, damaged);
    expect(result.belongs).toBe("can't tell");
    expect(result.lines.find(({ point }) => point.code === 'stock-whole')?.ok).toBe(false);
  });

  it('whose entries only have other times is not changed', async () => {
    const stock = await image([...stockEntries(), PROPS]);
    const later = [...stockEntries(), PROPS].map((one) => ({
      ...one,
      fields: { ...one.fields, mtime: 1_700_000_000 },
    }));
    const { changes, unexpected, belongs } = await judge(stock, await image([...later, entry('x', 'new')]));
    expect({ changes, unexpected, belongs }).toEqual({
      changes: { added: ['x'], removed: [], changed: [], moved: [] },
      unexpected: [],
      belongs: 'yes',
    });
  });

  it('cut off in its ramdisk is no image to judge', async () => {
    const whole = await image(provider(INIT, PROPS));
    expect(await codeOf(() => side(whole.subarray(0, whole.length - 6000)))).toBe('truncated');
    expect(await codeOf(() => side(utf8('x'.repeat(5000))))).toBe('bad-magic');
  });
});

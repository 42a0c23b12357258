import { describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import type { StockOptions } from '../../../tests/fixtures/images';
import {
  archive,
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
import { concatBytes, indexOfBytes } from '../bytes/bytes';
import { sha256Hex } from '../bytes/digest';
import { withPartHeader } from '../bytes/part-header';
import { kernelArchitecture, kernelVersion, readKernel } from '../formats/boot-image/kernel';
import { readBootImage, sectionBytes } from '../formats/boot-image/reader';
import { archiveBytes } from '../formats/cpio/cpio-archive';
import { readKit } from '../kits/read-kit';
import { listRamdisk, readRamdiskFile } from '../packages/list-ramdisk';
import { patchImage, proveAgain } from './patch-image';
import { choicesOf, proveHoweverMade } from './prove-options';
import { optionsThatFit } from './steps-that-run';
import { unpatchImage } from './unpatch-image';

/* Kits of version 2 on images: conditions, choices, patterns, the kernel. */

const source = (bytes: Uint8Array) => memorySource(bytes, 'stock.img');
const kitOf = async (change: object) =>
  (await readKit(memorySource(await kitZip({ formatVersion: 2, supports: {}, ...change })), nodePorts)).kit;
const patch = async (stock: Uint8Array, change: object, options = {}) =>
  patchImage(source(stock), await kitOf(change), nodePorts, options);
const write = (path: string, change: object = {}) => ({
  do: 'write',
  path,
  mode: '0640',
  text: 'x',
  ...change,
});
const textOf = async (bytes: Uint8Array, path: string) =>
  new TextDecoder().decode(await readRamdiskFile(source(bytes), path, nodePorts));
const kernelIn = async (bytes: Uint8Array) => sectionBytes(await readBootImage(source(bytes)), 'kernel');

/** An unpacked kernel that says its version and, where wanted, its architecture. */
function kernel(version: string, arm64 = true): Uint8Array<ArrayBuffer> {
  const out = seeded(21, 6000);
  out.set(utf8(`Linux version ${version} (hill@club) `), 3000);
  if (arm64) out.set(utf8('ARMd'), 56);
  return out;
}
const boot = (own: Uint8Array, change: StockOptions = {}) =>
  stockImage({ version: 2, codec: 'gzip', partition: 'boot', kernel: own, ...change });

describe('a step with conditions', () => {
  /** Which of two steps ran: the one with the condition, and the one without. */
  const ran = async (stock: Uint8Array, when: object, change: object = {}, options = {}) => {
    const { changes, notes, proof } = await patch(
      stock,
      { ...change, steps: [write('asked', { when }), write('always')] },
      options,
    );
    expect(proof.every(({ ok }) => ok)).toBe(true);
    expect(changes.added).toContain('always');
    const runs = changes.added.includes('asked');
    // what is skipped is said
    expect(notes.some((note) => note.startsWith('step 1 (write) is skipped'))).toBe(!runs);
    return runs;
  };

  it.each<[string, object, boolean]>([
    ['the level that its release has', { sdk: [36, 36] }, true],
    ['levels above it', { sdk: [37, 40] }, false],
    ['its partition', { partition: ['boot', 'init_boot'] }, true],
    ['another partition', { partition: ['recovery'] }, false],
    ['its header', { header: [3, 4] }, true],
    ['an older header', { header: [0, 3] }, false],
    ['a kernel, and it has none', { kernel: '6.1' }, false],
    ['all of several', { header: [4, 4], partition: ['init_boot'] }, true],
    ['several of which one is missed', { header: [4, 4], partition: ['boot'] }, false],
    ['none', {}, true],
  ])('on an init_boot runs where it asks for %s: %j', async (_what, when, runs) =>
    expect(await ran(await stockImage(), when)).toBe(runs),
  );

  it.each<[string, string, boolean]>([
    ['6.1', '6.1.57-hill', true],
    ['6.1', '6.1-rc2', true],
    ['6.1', '6.12.3', false],
    ['6.1.', '6.1.57', true],
    ['6.1.57-hill', '6.1.57-hill', true],
    ['6.1', '5.15.6', false],
    ['6', '6.12', true],
  ])('for kernel %s on %s: %s', async (prefix, version, runs) =>
    expect(await ran(await boot(kernel(version)), { kernel: prefix })).toBe(runs),
  );

  it('knows the architecture from the kernel’s head, else from the first program', async () => {
    const wants = { architecture: ['arm64'] };
    expect(await ran(await boot(kernel('6.1')), wants)).toBe(true);
    const elf = (machine: number) => {
      const init = seeded(9, 200);
      init.set([0x7f, 0x45, 0x4c, 0x46]);
      init.set([machine & 255, machine >> 8], 18);
      return stockImage({ entries: [...stockEntries(), entry('init', init)] });
    };
    expect(await ran(await elf(183), wants)).toBe(true);
    expect(await ran(await elf(62), wants)).toBe(false);
  });

  it.each<[string, object, StockOptions, string]>([
    ['the architecture', { architecture: ['arm64'] }, {}, 'architecture'],
    [
      'the version of a kernel that does not say it',
      { kernel: '6.1' },
      { partition: 'boot', version: 4, kernel: seeded(5, 900) },
      'version of the kernel',
    ],
  ])('stops where the image does not say %s', async (_what, when, change, named) => {
    const error = await errorOf(async () =>
      patch(await stockImage(change), { steps: [write('a'), write('asked', { when })] }),
    );
    expect(error).toMatchObject({ code: 'does-not-fit', details: { step: 2 } });
    expect(error.message).toContain(named);
  });

  it('is not looked at further than the first condition that fails', async () => {
    const when = { partition: ['boot'], architecture: ['arm64'] };
    expect(await ran(await stockImage(), when)).toBe(false);
  });

  it('runs by what the person chose, the kit’s own choice where they chose nothing', async () => {
    const words = { title: 't', explain: 'e' };
    const options = {
      quiet: { ...words, kind: 'bool', default: false },
      store: { ...words, kind: 'choice', choices: ['data', 'metadata'], default: 'data' },
    };
    const stock = await stockImage();
    const asks = (when: object, chosen?: object) => ran(stock, { option: when }, { options }, { chosen });
    expect(await asks({ quiet: false })).toBe(true);
    expect(await asks({ quiet: true })).toBe(false);
    expect(await asks({ quiet: true }, { quiet: true })).toBe(true);
    expect(await asks({ store: 'data', quiet: false })).toBe(true);
    expect(await asks({ store: 'data' }, { store: 'metadata' })).toBe(false);
    for (const chosen of [{ loud: true }, { quiet: 'true' }, { store: 'attic' }, { toString: true }])
      expect(await codeOf(() => patch(stock, { options, steps: [] }, { chosen }))).toBe('usage');
  });

  it('of a choice: the result is proved with the choice that made it, and with no other', async () => {
    const options = { quiet: { title: 't', explain: 'e', kind: 'bool', default: false } };
    const change = { options, steps: [write('.burrow-q', { text: '{{option.quiet}}' })] };
    const stock = await stockImage();
    const { bytes } = await patch(stock, change, { chosen: { quiet: true } });
    expect(await textOf(bytes, '.burrow-q')).toBe('true');
    const holds = async (quiet: boolean) =>
      (
        await proveAgain(source(stock), await kitOf(change), source(bytes), nodePorts, { chosen: { quiet } })
      ).every(({ ok }) => ok);
    expect([await holds(true), await holds(false)]).toEqual([true, false]);
  });
});

describe('what was chosen', () => {
  const words = { title: 't', explain: 'e' };
  const options = {
    quiet: { ...words, kind: 'bool', default: false } as const,
    home: { ...words, kind: 'choice', choices: ['a', 'b', 'c'], default: 'b' } as const,
  };
  it('of another version is taken along as far as this one takes it', () => {
    expect(optionsThatFit({ options }, { quiet: true, home: 'c' })).toEqual({ quiet: true, home: 'c' });
    expect(optionsThatFit({ options }, { quiet: 'true', home: 'gone', loud: true })).toEqual({});
  });
  it('is tried in every way, the kit’s own first', () => {
    expect(choicesOf({ options: {} })).toEqual([{}]);
    const all = choicesOf({ options });
    expect(all[0]).toEqual({ quiet: false, home: 'b' });
    expect(new Set(all.map((one) => JSON.stringify(one))).size).toBe(6);
    const many = Object.fromEntries(Array.from({ length: 20 }, (_, i) => [`o${i}`, options.quiet]));
    expect(choicesOf({ options: many }).length).toBeLessThanOrEqual(64);
  });
  it('and nobody wrote down is found by the proof', async () => {
    const change = {
      options,
      steps: [
        write('.burrow-h', { text: '{{option.home}}' }),
        write('q', { when: { option: { quiet: true } } }),
      ],
    };
    const stock = await stockImage();
    const kit = await kitOf(change);
    const { bytes } = await patch(stock, change, { chosen: { quiet: true, home: 'c' } });
    const holds = async (made: Uint8Array) =>
      (await proveHoweverMade(source(stock), kit, source(made), nodePorts)).every(({ ok }) => ok);
    expect(await holds(bytes)).toBe(true);
    expect(await holds((await patch(stock, change)).bytes)).toBe(true);
    expect(await holds((await patch(stock, { ...change, steps: [write('other')] })).bytes)).toBe(false);
  });
});

describe('variables of version 2', () => {
  it('are filled in from the stock image alone', async () => {
    const stock = await stockImage();
    const text =
      '{{stock.sha1}} {{image.partition}} {{image.headerVersion}} {{seed.hex16}} {{build.fingerprint}}';
    const { bytes, stockSha256 } = await patch(stock, { steps: [write('all', { text })] });
    const sha1 = await nodePorts.digests.create('sha1');
    sha1.update(stock);
    const seed = await sha256Hex(nodePorts.digests, utf8(`${stockSha256}burrow7.3`));
    expect(await textOf(bytes, 'all')).toBe(
      `${Buffer.from(sha1.finish()).toString('hex')} init_boot 4 ${seed.slice(0, 16)} ${FINGERPRINT}`,
    );
  });
});

describe('patterns', () => {
  const FSTABS = [
    ['etc/fstab.hill', 'a,verify,b,verify'],
    ['etc/fstab.moor', 'a'],
    ['etc/deep/fstab.hill', 'a,verify'],
    ['etc/fstab.', 'a,verify'],
  ] as const;
  const stock = () =>
    stockImage({
      entries: [
        ...stockEntries(),
        entry('etc', '', { mode: 0o40755, nlink: 2 }),
        entry('etc/deep', '', { mode: 0o40755, nlink: 2 }),
        ...FSTABS.map(([name, text]) => entry(name, text)),
      ],
    });
  const step = (change: object = {}) => ({
    do: 'replaceText',
    path: 'etc/fstab.*',
    match: 'glob',
    find: ',verify',
    with: '',
    ...change,
  });

  it('work on every entry that matches within one part of its path', async () => {
    const { bytes, changes } = await patch(await stock(), { steps: [step({ ifFound: true })] });
    expect(changes.changed).toEqual(['etc/fstab.hill', 'etc/fstab.']);
    expect(await textOf(bytes, 'etc/fstab.hill')).toBe('a,b');
    expect(await textOf(bytes, 'etc/deep/fstab.hill')).toBe('a,verify');
  });
  it('want the text in each of them, unless told otherwise', async () => {
    const error = await errorOf(async () => patch(await stock(), { steps: [step()] }));
    expect(error.code).toBe('kit-step-failed');
    expect(error.message).toContain('etc/fstab.moor');
  });
  it('want one entry at least, unless told otherwise', async () => {
    const none = { path: 'etc/none.*' };
    expect(await codeOf(async () => patch(await stock(), { steps: [step(none)] }))).toBe('kit-step-failed');
    const { changes } = await patch(await stock(), {
      steps: [write('a'), step({ ...none, ifPresent: true })],
    });
    expect(changes).toMatchObject({ added: ['a'], changed: [] });
  });
  it('take nothing but * for a sign of their own', async () => {
    const odd = await stockImage({ entries: [...stockEntries(), entry('a.b', '1'), entry('axb', '2')] });
    const { changes } = await patch(odd, { steps: [{ do: 'remove', path: 'a.*', match: 'glob' }] });
    expect(changes.removed).toEqual(['a.b']);
  });
});

describe('the kernel', () => {
  const OLD = '6c6f636b'; // "lock"
  const NEW = '4c4f434b';
  const step = { do: 'replaceBytes', in: 'kernel', find: OLD, with: NEW };
  const plain = () => {
    const own = kernel('6.1.57');
    for (const at of [100, 104, 4000]) own.set(utf8('lock'), at);
    return own;
  };
  /** Kernels end with their unpacked size, with device trees, with both. */
  const SIZE = Uint8Array.of(6000 & 255, 6000 >> 8, 0, 0);
  const TREE = concatBytes([Uint8Array.of(0xd0, 0x0d, 0xfe, 0xed), seeded(77, 400)]);
  const NOTHING = new Uint8Array(0);
  const TAILS = [NOTHING, SIZE, TREE, concatBytes([SIZE, TREE])];

  it.each([
    ['none', NOTHING],
    ...(['gzip', 'lz4-legacy'] as const).flatMap((kind) => TAILS.map((tail) => [kind, tail] as const)),
  ] as const)('packed as %s is changed, packed again, and what follows it is carried', async (kind, tail) => {
    const packed = kind === 'none' ? plain() : await nodePorts.codecs.encode(kind, plain());
    const stock = await boot(concatBytes([packed, tail]));
    const { bytes, proof } = await patch(stock, { steps: [step, write('a')] });
    expect(proof.every(({ ok }) => ok)).toBe(true);
    const fresh = await readKernel(await kernelIn(bytes), nodePorts.codecs);
    expect(fresh.compression).toBe(kind);
    expect(fresh.tail).toEqual(tail);
    const expected = plain();
    for (const at of [100, 104, 4000]) expected.set(utf8('LOCK'), at);
    expect(Buffer.compare(fresh.plain, expected)).toBe(0);
    // the same again
    expect((await patch(stock, { steps: [step, write('a')] })).bytes).toEqual(bytes);
  });

  it('that does not hold the bytes is an error, or stays byte for byte where that is allowed', async () => {
    const packed = await nodePorts.codecs.encode('gzip', kernel('6.1.57'));
    const stock = await boot(packed);
    expect(await codeOf(() => patch(stock, { steps: [step] }))).toBe('kit-step-failed');
    const { bytes } = await patch(stock, { steps: [{ ...step, ifFound: true }, write('a')] });
    expect(await kernelIn(bytes)).toEqual(packed);
    // an image without a kernel holds nothing either
    expect(await codeOf(async () => patch(await stockImage(), { steps: [step] }))).toBe('kit-step-failed');
    await expect(
      patch(await stockImage(), { steps: [{ ...step, ifFound: true }, write('a')] }),
    ).resolves.toBeDefined();
  });

  it('of a kind that can’t be written is left alone', async () => {
    const stock = await boot(await nodePorts.codecs.encode('xz', plain()));
    expect(await codeOf(() => patch(stock, { steps: [step] }))).toBe('unsupported');
  });

  it('is replaced whole, behind a maker’s part header that states its size', async () => {
    const header = new Uint8Array(512).fill(0xff);
    header.set([0x88, 0x16, 0x88, 0x58]);
    header.set(utf8('KERNEL'), 8);
    const stock = await boot(withPartHeader({ header }, kernel('6.1.57')));
    const { bytes, proof } = await patch(stock, { steps: [{ do: 'kernel', from: 'files/su' }, write('a')] });
    expect(proof.every(({ ok }) => ok)).toBe(true);
    const fresh = await kernelIn(bytes);
    expect(Buffer.from(fresh.subarray(512)).toString()).toBe('harmless\n');
    expect(new DataView(fresh.buffer, fresh.byteOffset).getUint32(4, true)).toBe(9);
    expect(fresh.subarray(8, 512)).toEqual(header.subarray(8));
    expect(
      await codeOf(async () => patch(await stockImage(), { steps: [{ do: 'kernel', from: 'files/su' }] })),
    ).toBe('kit-step-failed');
  });

  it('of another size than its part header states can’t be read', async () => {
    const header = new Uint8Array(512).fill(0xff);
    header.set([0x88, 0x16, 0x88, 0x58]);
    const section = withPartHeader({ header }, kernel('6.1.57'));
    section[4]! ^= 1;
    expect(await codeOf(() => readKernel(section, nodePorts.codecs))).toBe('bad-field');
    expect(await codeOf(() => readKernel(section.subarray(0, 511), nodePorts.codecs))).toBe('truncated');
  });

  it('that another step changed is found by the proof', async () => {
    const stock = await boot(plain());
    const change = { steps: [step, write('a')] };
    const { bytes } = await patch(stock, change);
    const other = bytes.slice();
    const { offset } = (await readBootImage(source(bytes))).sections.find(({ name }) => name === 'kernel')!;
    other[offset + 200]! ^= 1;
    const lines = await proveAgain(source(stock), await kitOf(change), source(other), nodePorts);
    expect(lines.filter(({ ok }) => !ok).map(({ check }) => check)).toEqual(
      expect.arrayContaining([expect.stringContaining('kernel')]),
    );
  });

  it('says its version and architecture, or neither', () => {
    expect(kernelVersion(kernel('6.1.57-hill'))).toBe('6.1.57-hill');
    expect(kernelVersion(seeded(3, 900))).toBeNull();
    expect(kernelArchitecture(kernel('6.1'))).toBe('arm64');
    expect(kernelArchitecture(kernel('6.1', false))).toBeNull();
  });
});

describe('an image without a ramdisk', () => {
  const bare = () => boot(kernel('6.1.57'), { packed: new Uint8Array(0) });
  it('is patched by steps that need none', async () => {
    const { bytes, proof } = await patch(await bare(), {
      steps: [
        { do: 'cmdline', append: 'burrow=1' },
        { do: 'kernel', from: 'files/su' },
        write('a', { when: { partition: ['init_boot'] } }),
      ],
    });
    expect(proof.every(({ ok }) => ok)).toBe(true);
    expect((await readBootImage(source(bytes))).header.cmdline).toBe('console=null burrow=1');
  });
  it('is refused by one that does', async () => {
    expect(await codeOf(async () => patch(await bare(), { steps: [write('a')] }))).toBe('unsupported');
  });
});

describe('a maker’s part header before the ramdisk', () => {
  it('is read past, and states the new size after a patch', async () => {
    const header = new Uint8Array(512).fill(0xff);
    header.set([0x88, 0x16, 0x88, 0x58]);
    header.set(utf8('ROOTFS'), 8);
    const packed = await nodePorts.codecs.encode('gzip', archiveBytes(archive(...stockEntries())));
    const stock = await stockImage({ packed: withPartHeader({ header }, packed) });
    expect((await listRamdisk(source(stock), nodePorts)).archives[0]!.entries.length).toBeGreaterThan(3);
    const { bytes, proof } = await patch(stock, { steps: [write('a')] });
    expect(proof.every(({ ok }) => ok)).toBe(true);
    const section = await sectionBytes(await readBootImage(source(bytes)), 'ramdisk');
    expect(new DataView(section.buffer, section.byteOffset).getUint32(4, true)).toBe(section.length - 512);
    expect(section.subarray(8, 512)).toEqual(header.subarray(8));
  });
});

describe('bytes of nobody known before a boot image', () => {
  const behind = async (bytes: number) =>
    concatBytes([new Uint8Array(bytes).fill(7), await boot(kernel('6.1'), { footer: false })]);
  it.each([512, 4096])('are read past where they are %d', async (bytes) => {
    const image = await readBootImage(source(await behind(bytes)));
    expect(image.prefix).toBe(bytes);
    expect(indexOfBytes(await sectionBytes(image, 'kernel'), utf8('Linux version 6.1'))).toBe(3000);
    expect(await codeOf(async () => patch(await behind(bytes), { steps: [write('a')] }))).toBe('unsupported');
  });
  it.each([300, 4608])('are no boot image where they are %d', async (bytes) =>
    expect(await codeOf(async () => readBootImage(source(await behind(bytes))))).toBe('bad-magic'),
  );
});

describe('taking a patch of version 2 back', () => {
  it('gives the stock image', async () => {
    const stock = await stockImage();
    const change = { steps: [{ do: 'keep', path: 'init', as: 'init.stock' }, write('.n')] };
    const { bytes } = await patch(stock, change);
    const back = await unpatchImage(source(bytes), await kitOf(change), source(stock), nodePorts);
    expect(back.bytes).toEqual(stock);
  });
});

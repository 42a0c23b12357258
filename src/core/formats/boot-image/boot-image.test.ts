import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf, errorOf } from '../../../../tests/fixtures/expect-error';
import { seeded, stockImage } from '../../../../tests/fixtures/images';
import { nodeDigests } from '../../../platform/node/node-digests';
import { memorySource } from '../../bytes/byte-source';
import {
  osVersionOf,
  packOsVersion,
  parseBootHeader,
  patchLevelOf,
  recoveryDtboOffsetOf,
  rewriteHeader,
} from './layout';
import { computeId, idRuleOf, readBootImage, sectionBytes } from './reader';
import type { BootParts } from './writer';
import { writeBootImage } from './writer';
import { tries } from '../../../../tests/fixtures/soak';

const bytes = (max: number) => fc.uint8Array({ minLength: 1, maxLength: max });
const parts: fc.Arbitrary<BootParts> = fc.record({
  version: fc.constantFrom(0, 1, 2, 3, 4) as fc.Arbitrary<BootParts['version']>,
  pageSize: fc.constantFrom(2048, 4096, 8192, 16384),
  osVersionField: fc.integer({ min: 0, max: 0x7fffffff }),
  name: fc.stringMatching(/^[a-z]{0,15}$/),
  cmdline: fc.stringMatching(/^[a-z =.]{0,1400}$/),
  kernel: fc.oneof(fc.constant(new Uint8Array(0)), bytes(9000)),
  ramdisk: bytes(9000),
  second: bytes(3000),
  recoveryDtbo: bytes(3000),
  dtb: bytes(3000),
  signature: bytes(4096),
});

const given = ({ version, kernel, ramdisk, second, recoveryDtbo, dtb, signature }: BootParts) => ({
  kernel,
  ramdisk,
  second: version < 3 ? second! : new Uint8Array(0),
  recovery_dtbo: version === 1 || version === 2 ? recoveryDtbo! : new Uint8Array(0),
  dtb: version === 2 ? dtb! : new Uint8Array(0),
  signature: version === 4 ? signature! : new Uint8Array(0),
});

/** Only the parts that a version has. */
function fitting(p: BootParts): BootParts {
  const all = given(p);
  return {
    ...p,
    second: all.second,
    recoveryDtbo: all.recovery_dtbo,
    dtb: all.dtb,
    signature: all.signature,
  };
}

describe('boot images', () => {
  it('of every version are read back as they were written', async () => {
    await fc.assert(
      fc.asyncProperty(parts, async (p) => {
        const image = await readBootImage(memorySource(writeBootImage(fitting(p))));
        expect(image.header.version).toBe(p.version);
        expect(image.header.pageSize).toBe(p.version >= 3 ? 4096 : p.pageSize);
        expect(image.header.cmdline).toBe(p.cmdline);
        expect(image.header.name).toBe(p.version >= 3 ? '' : p.name);
        expect(image.header.osVersionField >>> 0).toBe(p.osVersionField);
        for (const [name, expected] of Object.entries(given(p)))
          expect(await sectionBytes(image, name as 'kernel')).toEqual(new Uint8Array(expected));
        for (const section of image.sections) expect(section.offset % image.header.pageSize).toBe(0);
      }),
      tries(60),
    );
  });

  it('are refused at every cut of header and sections', async () => {
    for (const version of [0, 1, 2, 3, 4] as const) {
      const whole = writeBootImage({
        ...fitting(fc.sample(parts, { seed: 4, numRuns: 1 })[0]!),
        version,
        kernel: seeded(1, 5000),
        ramdisk: seeded(2, 5000),
      });
      const { sections } = await readBootImage(memorySource(whole));
      const cuts = [
        0,
        1,
        7,
        8,
        39,
        40,
        43,
        44,
        600,
        1579,
        1631,
        ...sections.flatMap(({ offset, size }) => [offset, offset + 1, offset + size - 1]),
      ];
      for (const cut of cuts.filter((at) => at < Math.max(...sections.map((s) => s.offset + s.size)))) {
        expect(
          await codeOf(() => readBootImage(memorySource(whole.subarray(0, cut)))),
          `version ${version} cut at ${cut}`,
        ).toMatch(/truncated|bad-magic/);
      }
    }
  });

  it.each([0, 1, 2047, 2049, 32768, 0xffffffff])('refuse a page size of %d', async (pageSize) => {
    const image = writeBootImage(fitting({ ...fc.sample(parts, { seed: 8, numRuns: 1 })[0]!, version: 2 }));
    new DataView(image.buffer).setUint32(36, pageSize, true);
    expect(await codeOf(() => readBootImage(memorySource(image)))).toBe('bad-field');
  });

  it('survive a header of any numbers', async () => {
    const base = await stockImage({ version: 2, codec: 'gzip' });
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 8, max: 1659 }),
        fc.uint8Array({ minLength: 1, maxLength: 8 }),
        async (at, change) => {
          const image = base.slice();
          image.set(change, at);
          await answersProperly(() => readBootImage(memorySource(image)));
        },
      ),
      tries(300),
    );
  });

  it('tell the old variant by its version field', async () => {
    const image = writeBootImage({
      ...fitting({ ...fc.sample(parts, { seed: 2, numRuns: 1 })[0]!, version: 0 }),
      kernel: seeded(1, 3000),
      ramdisk: seeded(2, 3000),
      second: new Uint8Array(0),
      pageSize: 2048,
    });
    const withDt = new Uint8Array(image.length + 2048);
    withDt.set(image);
    new DataView(withDt.buffer).setUint32(40, 1500, true);
    const read = await readBootImage(memorySource(withDt));
    expect(read.header).toMatchObject({ version: 0, dtVariant: true });
    expect(read.sections.at(-1)).toMatchObject({ name: 'dt', size: 1500 });
  });

  it('join a command line that was broken at 511', () => {
    const image = writeBootImage(
      fitting({ ...fc.sample(parts, { seed: 3, numRuns: 1 })[0]!, version: 1, cmdline: '' }),
    );
    image.set(new TextEncoder().encode('a'.repeat(511)), 64);
    image.set(new TextEncoder().encode('b'.repeat(9)), 608);
    const header = parseBootHeader(image, 'x');
    expect(header.cmdline).toBe('a'.repeat(511) + 'b'.repeat(9));
    expect(header.cmdlineBreak).toBe(511);
  });

  it('name file and place in an error', async () => {
    const error = await errorOf(() => readBootImage(memorySource(new Uint8Array(4000), 'nothing.img')));
    expect(error).toMatchObject({ code: 'bad-magic', file: 'nothing.img', offset: 0 });
  });
});

describe('ids', () => {
  it('hold for what was written with one and not after a change', async () => {
    for (const version of [0, 1, 2] as const) {
      const p = fitting({ ...fc.sample(parts, { seed: 5, numRuns: 1 })[0]!, version });
      const bare = await readBootImage(memorySource(writeBootImage(p)));
      const id = await computeId(bare.header, (name) => sectionBytes(bare, name), nodeDigests, 'all');
      expect(id.subarray(20)).toEqual(new Uint8Array(12));
      const whole = writeBootImage({ ...p, id });
      expect(await idRuleOf(await readBootImage(memorySource(whole)), nodeDigests)).toBe('all');
      whole[whole.length > 9000 ? 8192 : 4096]! ^= 1;
      const changed = await readBootImage(memorySource(whole));
      if (changed.header.pageSize <= 4096) expect(await idRuleOf(changed, nodeDigests)).toBeNull();
    }
  });
});

describe('rewriteHeader', () => {
  it('changes nothing but what it is told to', async () => {
    const image = writeBootImage(
      fitting({
        ...fc.sample(parts, { seed: 6, numRuns: 1 })[0]!,
        version: 2,
        pageSize: 2048,
        cmdline: 'one two',
      }),
    );
    const page = image.subarray(0, 2048);
    const header = parseBootHeader(page, 'x');
    const out = rewriteHeader(page, header, { ramdiskSize: 77, recoveryDtboOffset: 123456 });
    const changed = [...out].flatMap((byte, i) => (byte === page[i] ? [] : [i]));
    expect(changed.every((at) => (at >= 16 && at < 20) || (at >= 1636 && at < 1644))).toBe(true);
    expect(parseBootHeader(out, 'x').sizes.ramdisk).toBe(77);
    expect(recoveryDtboOffsetOf(out)).toBe(123456);
  });
  it('keeps the break of a long command line where it was', () => {
    const page = writeBootImage(
      fitting({
        ...fc.sample(parts, { seed: 6, numRuns: 1 })[0]!,
        version: 0,
        pageSize: 2048,
        cmdline: 'x'.repeat(600),
      }),
    ).subarray(0, 2048);
    const text = `${'x'.repeat(600)} more`;
    const out = rewriteHeader(page, parseBootHeader(page, 'x'), {
      ramdiskSize: 1,
      cmdline: { text, breakAt: 512 },
    });
    expect(parseBootHeader(out, 'x')).toMatchObject({ cmdline: text, cmdlineBreak: 512 });
  });
});

describe('versions and patch levels', () => {
  it.each([
    [[15, 0, 0], [2026, 9], '15.0.0', '2026-09'],
    [[8, 1, 0], [2018, 12], '8.1.0', '2018-12'],
    [[127, 127, 127], [2127, 15], '127.127.127', '2127-15'],
  ] as const)('pack and unpack %j %j', (version, patch, osVersion, level) => {
    const field = packOsVersion([...version], [...patch]);
    expect(osVersionOf(field)).toBe(osVersion);
    expect(patchLevelOf(field)).toBe(level);
  });
  it('of zero are not stated', () => {
    expect(osVersionOf(0)).toBeNull();
    expect(patchLevelOf(0)).toBeNull();
  });
});

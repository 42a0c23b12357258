import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LIMITS } from '@/core/limits';
import { memorySource } from '@/core/bytes/byte-source';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { seeded, zipBytes } from '../../../tests/fixtures/images';
import { forwardSource } from './forward-source';
import { openZip } from './open-zip';
import { tries } from '../../../tests/fixtures/soak';

const bytes = seeded(3, 200_000);
let begun = 0;
const source = (size = bytes.length) =>
  forwardSource('inner', size, () => {
    begun += 1;
    return new ReadableStream({
      start(controller) {
        for (let at = 0; at < bytes.length; at += 7001) controller.enqueue(bytes.slice(at, at + 7001));
        controller.close();
      },
    });
  });

describe('forward sources', () => {
  it('give any ranges in any order, also several at once', async () => {
    const range = fc
      .tuple(fc.nat(bytes.length), fc.nat(bytes.length))
      .map(([a, b]) => [Math.min(a, b), Math.max(a, b)] as const);
    await fc.assert(
      fc.asyncProperty(fc.array(range, { minLength: 1, maxLength: 8 }), async (ranges) => {
        const one = source();
        const read = await Promise.all(ranges.map(([from, to]) => one.read(from, to)));
        read.forEach((part, i) => expect(Buffer.compare(part, bytes.subarray(...ranges[i]!))).toBe(0));
      }),
      tries(40),
    );
  });

  it('do not begin again for what was just read', async () => {
    const one = source();
    begun = 0;
    await one.read(150_000, 200_000);
    await one.read(180_000, 190_000);
    await one.read(160_000, 170_000);
    expect(begun).toBe(1);
  });

  it('say when there is less or more than stated, and go on afterwards', async () => {
    expect(await codeOf(() => source(bytes.length + 5).read(0, bytes.length + 5))).toBe('truncated');
    expect(await codeOf(() => source(bytes.length - 5).read(0, bytes.length - 5))).toBe('too-large');
    const one = source();
    expect(await codeOf(() => one.read(0, bytes.length + 1))).toBe('truncated');
    expect(await one.read(5, 10)).toEqual(bytes.slice(5, 10));
  });
});

describe('large deflated entries', () => {
  it('are unpacked as they are read, and held against their CRC-32', async () => {
    const size = LIMITS.unpackedEntryBytes + 100_000;
    const large = new Uint8Array(size);
    for (let at = 0; at < size; at += 65_521) large[at] = at % 251;
    const zip = await zipBytes({ 'system.img': large });
    const archive = await openZip(memorySource(zip, 'x.zip'));
    const { source: entry, check } = await archive.openEntry(archive.entries[0]!);
    expect(Buffer.compare(await entry.read(size - 70_000, size), large.subarray(size - 70_000))).toBe(0);
    expect(Buffer.compare(await entry.read(10, 70_000), large.subarray(10, 70_000))).toBe(0);
    await check();
  });
});

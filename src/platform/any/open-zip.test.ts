import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { countingSource, memorySource } from '@/core/bytes/byte-source';
import { concatBytes, crc32 } from '@/core/bytes/bytes';
import { findEntry } from '@/core/formats/zip/zip-archive';
import { ByteWriter } from '@/core/bytes/byte-writer';
import { answersProperly, codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import { seeded, utf8, zipBytes } from '../../../tests/fixtures/images';
import { openZip } from './open-zip';
import { tries } from '../../../tests/fixtures/soak';

const open = (bytes: Uint8Array) => openZip(memorySource(bytes, 'a.zip'));

interface Wrong {
  readonly directoryOffset?: number;
  readonly sizeChange?: number;
  readonly count?: number;
}
interface Member {
  readonly name: string;
  readonly bytes: Uint8Array;
  readonly crc?: number;
  readonly flags?: number;
}
/** An archive written by hand, all members stored, so that every field can lie. */
function handMade(
  members: readonly Member[],
  comment = new Uint8Array(0),
  change: { readonly count?: number; readonly directoryOffset?: number; readonly sizeChange?: number } = {},
): Uint8Array {
  const out = new ByteWriter();
  const offsets: number[] = [];
  const fields =
    ({ name, bytes, crc, flags }: Member) =>
    (w: ByteWriter) =>
      w
        .u16le(20)
        .u16le(flags ?? 0)
        .u16le(0)
        .u16le(0)
        .u16le(33)
        .u32le(crc ?? crc32(bytes))
        .u32le(bytes.length)
        .u32le(bytes.length)
        .u16le(utf8(name).length);
  for (const member of members) {
    offsets.push(out.length);
    fields(member)(out.u32le(0x04034b50)).u16le(0).bytes(utf8(member.name)).bytes(member.bytes);
  }
  const start = out.length;
  members.forEach((member, i) => {
    fields(member)(out.u32le(0x02014b50).u16le(20))
      .u16le(0)
      .u16le(0)
      .u16le(0)
      .u16le(0)
      .u32le(0)
      .u32le(offsets[i]!)
      .bytes(utf8(member.name));
  });
  const size = out.length - start;
  const count = change.count ?? members.length;
  out
    .u32le(0x06054b50)
    .u16le(0)
    .u16le(0)
    .u16le(count)
    .u16le(count)
    .u32le(size + (change.sizeChange ?? 0))
    .u32le(change.directoryOffset ?? start)
    .u16le(comment.length)
    .bytes(comment);
  return out.finish();
}

describe('archives', () => {
  const members = { 'a.txt': 'hello', 'folder/b.bin': seeded(1, 5000), 'payload.bin': seeded(2, 9000) };

  it('are listed and read, packed and stored', async () => {
    const archive = await open(await zipBytes(members, ['payload.bin']));
    expect(archive.entries.map((entry) => [entry.name, entry.method])).toEqual([
      ['a.txt', 'deflated'],
      ['folder/b.bin', 'deflated'],
      ['payload.bin', 'stored'],
    ]);
    expect(new TextDecoder().decode(await archive.readEntry(findEntry(archive, 'a.txt')!, 100))).toBe(
      'hello',
    );
    expect(await archive.readEntry(findEntry(archive, 'folder/b.bin')!, 10_000)).toEqual(
      members['folder/b.bin'],
    );
  });

  it('give ranges of a stored entry in place', async () => {
    const bytes = await zipBytes(members, ['payload.bin']);
    const source = countingSource(memorySource(bytes));
    const archive = await openZip(source);
    const before = source.bytesRead;
    const payload = await archive.openStored(findEntry(archive, 'payload.bin')!);
    expect(payload.size).toBe(9000);
    expect(await payload.read(100, 110)).toEqual(members['payload.bin'].slice(100, 110));
    expect(source.bytesRead - before).toBeLessThan(100);
    expect(await codeOf(() => archive.openStored(findEntry(archive, 'a.txt')!))).toBe('unsupported');
  });

  it('written twice are the same bytes', async () =>
    expect(await zipBytes(members)).toEqual(await zipBytes(members)));

  it('with bytes before them or a comment behind them are read', async () => {
    const archive = handMade([{ name: 'x', bytes: utf8('data') }]);
    for (const bytes of [
      concatBytes([seeded(3, 777), archive]),
      handMade([{ name: 'x', bytes: utf8('data') }], utf8('a comment')),
    ]) {
      expect((await open(bytes)).entries.map((entry) => entry.name)).toEqual(['x']);
    }
  });

  it('are not fooled by a false end in their comment', async () => {
    const decoys: Uint8Array<ArrayBuffer>[] = [
      handMade([]).slice(-22),
      handMade([{ name: 'y', bytes: utf8('other') }]).slice(),
      handMade([{ name: 'y', bytes: utf8('z') }]).slice(-22),
    ];
    for (const decoy of decoys)
      for (const comment of [decoy, concatBytes([utf8('see '), decoy, utf8(' end')])]) {
        const archive = await open(handMade([{ name: 'x', bytes: utf8('data') }], comment));
        expect(archive.entries.map((entry) => entry.name)).toEqual(['x']);
        expect(new TextDecoder().decode(await archive.readEntry(archive.entries[0]!, 10))).toBe('data');
      }
  });

  it.each([
    ['an offset too large by one', { directoryOffset: 1 }, 'bad-field'],
    ['an offset too small by one', { directoryOffset: -1 }, 'bad-field'],
    ['an offset of nothing', { directoryOffset: -35 }, 'bad-field'],
    ['an offset past the end', { directoryOffset: 100_000 }, 'truncated'],
    ['a size too large by one', { sizeChange: 1 }, 'bad-field'],
    ['a size too small by one', { sizeChange: -1 }, 'bad-field'],
    ['a size past the end', { sizeChange: 100_000 }, 'truncated'],
    ['one entry more than there is', { count: 2 }, 'bad-field'],
  ] as const)(
    'whose end record gives %s are refused, with bytes before them too',
    async (_what, { directoryOffset, ...change }: Wrong, code) => {
      const member = { name: 'x', bytes: utf8('data') };
      const start = 30 + 1 + 4;
      const bytes = handMade([member], new Uint8Array(0), {
        ...change,
        ...(directoryOffset === undefined ? {} : { directoryOffset: start + directoryOffset }),
      });
      expect(await codeOf(() => open(bytes))).toBe(code);
      expect(await codeOf(() => open(concatBytes([seeded(3, 777), bytes])))).toBe(code);
    },
  );

  it('that list a name twice are refused where that name is wanted', async () => {
    const archive = await open(
      handMade([
        { name: 'x', bytes: utf8('one') },
        { name: 'y', bytes: utf8('two') },
        { name: 'x', bytes: utf8('three') },
      ]),
    );
    expect(await codeOf(() => findEntry(archive, 'x'))).toBe('duplicate');
    expect(findEntry(archive, 'y')!.size).toBe(3);
    expect(findEntry(archive, 'z')).toBeNull();
  });

  it('check the sum of what is taken out', async () => {
    const archive = await open(handMade([{ name: 'x', bytes: utf8('data'), crc: 12345 }]));
    expect(await codeOf(() => archive.readEntry(archive.entries[0]!, 100))).toMatch(/bad-hash|corrupt/);
  });

  it('take no more than they are allowed', async () => {
    const bomb = await zipBytes({ big: new Uint8Array(3_000_000) });
    expect(bomb.length).toBeLessThan(20_000);
    const archive = await open(bomb);
    expect(await codeOf(() => archive.readEntry(archive.entries[0]!, 1_000_000))).toBe('too-large');
  });

  it('with a secret are not read as if they had none', async () => {
    const archive = await open(handMade([{ name: 'x', bytes: utf8('data'), flags: 1 }]));
    expect(await codeOf(() => archive.openStored(archive.entries[0]!))).toBe('unsupported');
  });

  it.each([
    ['nothing', new Uint8Array(0), /truncated/],
    ['no archive', seeded(1, 5000), /bad-magic/],
    [
      'more entries than there are',
      handMade([{ name: 'x', bytes: utf8('d') }], undefined, { count: 500 }),
      /truncated|corrupt|bad-field/,
    ],
  ])('of %s are refused', async (_what, bytes, code) =>
    expect(await codeOf(() => open(bytes))).toMatch(code),
  );

  it('whose end misstates where the directory is are read by its size, or refused', async () => {
    const bytes = handMade([{ name: 'x', bytes: utf8('d') }], undefined, { directoryOffset: 9_000_000 });
    await answersProperly(async () =>
      expect((await open(bytes)).entries.map((entry) => entry.name)).toEqual(['x']),
    );
  });

  it('name the file in their errors', async () => {
    expect((await errorOf(() => open(seeded(1, 5000)))).file).toBe('a.zip');
  });

  it('survive any change of any byte', async () => {
    const base = handMade([
      { name: 'one', bytes: seeded(1, 50) },
      { name: 'two', bytes: seeded(2, 50) },
    ]);
    await fc.assert(
      fc.asyncProperty(fc.nat(base.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = base.slice();
        bytes[at] = value;
        await answersProperly(async () => {
          const archive = await open(bytes);
          for (const entry of archive.entries) if (!entry.directory) await archive.readEntry(entry, 1000);
        });
      }),
      tries(400),
    );
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../../tests/fixtures/expect-error';
import { archive, entry, folder, seeded, utf8 } from '../../../../tests/fixtures/images';
import { nodePorts } from '../../../platform/node/node-ports';
import { concatBytes } from '../../bytes/bytes';
import { archiveBytes, makeEntry, makeTrailer, nameOf, readCpioArchive, TYPE } from './cpio-archive';
import { archivesOf, compressionOf, readRamdisk, streamBytes } from './ramdisk';
import { tries } from '../../../../tests/fixtures/soak';

const { codecs } = nodePorts;
const anyEntry = fc
  .record({
    name: fc.uint8Array({ minLength: 1, maxLength: 30 }).map((bytes) => bytes.map((b) => b || 1)),
    data: fc.uint8Array({ maxLength: 200 }),
    mode: fc.integer({ min: 0, max: 0o177777 }),
    ino: fc.integer({ min: 0, max: 0xffffffff }),
    mtime: fc.integer({ min: 0, max: 0xffffffff }),
    upperCase: fc.boolean(),
    magic: fc.constantFrom('070701', '070702'),
  })
  .map(({ name, data, mode, ino, mtime, upperCase, magic }) =>
    makeEntry(
      magic,
      upperCase,
      { ino, mode, nlink: 1, uid: 5, gid: 6, mtime, devmajor: 0, devminor: 1, rdevmajor: 2, rdevminor: 3 },
      name,
      data,
    ),
  );

describe('archives', () => {
  it('are read back entry by entry, and written back byte for byte', () => {
    fc.assert(
      fc.property(fc.array(anyEntry, { maxLength: 12 }), (entries) => {
        const bytes = archiveBytes({ entries, trailer: makeTrailer() });
        const { archive: read, end } = readCpioArchive(bytes, 0);
        expect(end).toBe(bytes.length);
        expect(
          read.entries.map(({ fields, name, data, magic }) => ({
            fields,
            name: [...name],
            data: [...data],
            magic,
          })),
        ).toEqual(
          entries.map(({ fields, name, data, magic }) => ({
            fields,
            name: [...name],
            data: [...data],
            magic,
          })),
        );
        expect(archiveBytes(read)).toEqual(bytes);
      }),
      tries(),
    );
  });

  it('keep odd padding bytes of untouched entries', () => {
    const bytes = archiveBytes(archive(entry('a', 'x')));
    bytes[114 + 1]! = 0x55;
    expect(archiveBytes(readCpioArchive(bytes, 0).archive)).toEqual(bytes);
  });

  it('show names as data, also those that look like paths out', () => {
    const names = ['/etc/x', '../up', 'a/../b', '.'];
    const { archive: read } = readCpioArchive(archiveBytes(archive(...names.map((name) => entry(name)))), 0);
    expect(read.entries.map(nameOf)).toEqual(names);
  });

  const good = archiveBytes(archive(folder('dev'), entry('init', seeded(1, 300))));
  const field = (index: number) => 6 + 8 * index;
  it.each([
    ['another magic', 0, '070707', 'bad-field'],
    ['a letter that is no hex digit', field(1), '0000g1a4', 'bad-field'],
    ['a sign', field(0), '-0000001', 'bad-field'],
    ['a space', field(0), ' 0000001', 'bad-field'],
    ['no room for a name', field(11), '00000000', 'bad-field'],
    ['a name past the end', field(11), '0000ffff', 'truncated'],
    ['a name of 4 GiB', field(11), 'ffffffff', 'truncated'],
    ['data past the end', field(6), '0000ffff', 'truncated'],
    ['data of 4 GiB', field(6), 'ffffffff', 'truncated'],
  ] as const)('are refused for %s', async (_what, at, text, code) => {
    const bytes = good.slice();
    bytes.set(utf8(text), at);
    expect(await codeOf(() => readCpioArchive(bytes, 0))).toBe(code);
  });

  it('are refused at every cut', async () => {
    for (let cut = 0; cut < good.length; cut += 1)
      expect(await codeOf(() => readCpioArchive(good.subarray(0, cut), 0)), `cut at ${cut}`).toMatch(
        /truncated|bad-field/,
      );
  });

  it('check the sum of a 070702 file', async () => {
    const bytes = archiveBytes(archive(entry('f', 'abc', { magic: '070702' })));
    expect(readCpioArchive(bytes, 0).archive.entries[0]!.fields.check).toBe(0x61 + 0x62 + 0x63);
    bytes[112]! ^= 1;
    expect(await codeOf(() => readCpioArchive(bytes, 0))).toBe('bad-hash');
  });

  it('survive any change of any byte', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(good.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = good.slice();
        bytes[at] = value;
        await answersProperly(() => readCpioArchive(bytes, 0));
      }),
      tries(500),
    );
  });
});

describe('ramdisks', () => {
  const first = archiveBytes(archive(folder('dev'), entry('init', seeded(1, 3000))));
  const second = archiveBytes(archive(entry('late', 'second archive')));

  it.each(['none', 'gzip', 'lz4-legacy', 'xz'] as const)(
    'packed as %s are taken apart and put together again',
    async (kind) => {
      const packed = kind === 'none' ? first : await codecs.encode(kind, first);
      const ramdisk = await readRamdisk(packed, codecs);
      expect(compressionOf(ramdisk)).toBe(kind);
      expect(archivesOf(ramdisk)[0]!.entries.map(nameOf)).toEqual(['dev', 'init']);
      expect(streamBytes(ramdisk.streams[0]!)).toEqual(first);
      expect(concatBytes([ramdisk.lead, ...ramdisk.streams.flatMap((s) => [s.packed, s.padding])])).toEqual(
        packed,
      );
    },
  );

  it('may hold several streams of different kinds with padding between', async () => {
    const section = concatBytes([
      await codecs.encode('gzip', first),
      new Uint8Array(24),
      second,
      new Uint8Array(8),
      await codecs.encode('lz4-legacy', second),
    ]);
    const ramdisk = await readRamdisk(section, codecs);
    expect(ramdisk.streams.map((s) => s.compression)).toEqual(['gzip', 'none', 'lz4-legacy']);
    expect(compressionOf(ramdisk)).toBe('mixed');
    expect(archivesOf(ramdisk)).toHaveLength(3);
    expect(concatBytes([ramdisk.lead, ...ramdisk.streams.flatMap((s) => [s.packed, s.padding])])).toEqual(
      section,
    );
  });

  it('may hold several archives in one stream', async () => {
    const ramdisk = await readRamdisk(
      await codecs.encode('gzip', concatBytes([first, new Uint8Array(512), second, new Uint8Array(4)])),
      codecs,
    );
    expect(ramdisk.streams).toHaveLength(1);
    expect(archivesOf(ramdisk)).toHaveLength(2);
    expect(ramdisk.streams[0]!.archives[0]!.padding.length).toBe(512);
  });

  it.each([
    ['nothing', new Uint8Array(0)],
    ['only zeros', new Uint8Array(4096)],
    ['a text', utf8('not a ramdisk at all')],
    ['something behind an archive', concatBytes([first, utf8('junk')])],
  ])('are refused for %s', async (_what, bytes) =>
    expect(await codeOf(() => readRamdisk(bytes, codecs))).toBe('bad-field'),
  );

  it('of a kind that breaks off say so', async () => {
    expect(await codeOf(() => readRamdisk(Uint8Array.of(0x5d, 0, 0, 0, 1), codecs))).toBe('truncated');
  });

  it('see node types as they are', () => {
    const { archive: read } = readCpioArchive(
      archiveBytes(
        archive(entry('console', '', { mode: 0o020600 }), entry('l', 'init', { mode: TYPE.link | 0o777 })),
      ),
      0,
    );
    expect(read.entries.map((e) => e.fields.mode.toString(8))).toEqual(['20600', '120777']);
  });
});

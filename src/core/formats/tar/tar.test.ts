import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../../tests/fixtures/expect-error';
import { seeded, utf8 } from '../../../../tests/fixtures/images';
import { tarBytes } from '../../../../tests/fixtures/tars';
import { tarMember } from './writer';
import { memorySource } from '../../bytes/byte-source';
import { concatBytes, latin1 } from '../../bytes/bytes';
import { parseTarHeader, resizedTarHeader, tarChecksum } from './layout';
import { isTar, readTar } from './reader';
import { tries } from '../../../../tests/fixtures/soak';

const read = (bytes: Uint8Array) => readTar(memorySource(bytes, 'x.tar'));
const two = () =>
  tarBytes(
    [
      { name: 'a.img', bytes: seeded(1, 700) },
      { name: 'dir/b.img', bytes: seeded(2, 512) },
    ],
    'x.tar',
  );

describe('tars', () => {
  it('are walked by their headers, the line behind them read', async () => {
    const bytes = two();
    const { members, md5Line, endBytes } = await read(bytes);
    expect(members.map(({ name, size }) => [name, size])).toEqual([
      ['a.img', 700],
      ['dir/b.img', 512],
    ]);
    expect(bytes.subarray(members[1]!.dataOffset, members[1]!.dataOffset + 512)).toEqual(seeded(2, 512));
    expect(md5Line).toMatchObject({ name: 'x.tar' });
    expect(endBytes).toBe(bytes.length - md5Line!.text.length);
  });

  it('with long names, attributes and folders are understood', async () => {
    const long = `${'deep/'.repeat(40)}boot.img`;
    const body = ` path=${long}\n`;
    const pax = utf8(`${body.length + 3}${body}`);
    const tar = concatBytes([
      tarMember({ name: 'x', bytes: pax, type: 'x' }),
      tarMember({ name: 'short', bytes: seeded(1, 10) }),
      tarMember({ name: 'L', bytes: utf8(`${long}2\0`), type: 'L' }),
      tarMember({ name: 'short', bytes: seeded(2, 10) }),
      tarMember({ name: 'folder/', bytes: new Uint8Array(0), type: '5' }),
      new Uint8Array(1024),
    ]);
    expect((await read(tar)).members.map(({ name, type }) => [name, type])).toEqual([
      [long, '0'],
      [`${long}2`, '0'],
      ['folder/', '5'],
    ]);
  });

  it('with a size in binary are understood', () => {
    const header = tarMember({ name: 'big', bytes: new Uint8Array(0) }).slice(0, 512);
    header.fill(0, 124, 136);
    header[124] = 0x80;
    header[131] = 1;
    header.set(latin1(`${tarChecksum(header).toString(8).padStart(6, '0')}\0 `), 148);
    expect(parseTarHeader(header, 'x', 0).size).toBe(2 ** 32);
  });

  it('are refused at every cut inside a member', async () => {
    const bytes = tarBytes([{ name: 'a.img', bytes: seeded(1, 700) }]).subarray(0, 512 + 1024);
    for (const cut of [512, 513, 600, 1211])
      expect(await codeOf(() => read(bytes.subarray(0, cut))), `cut at ${cut}`).toMatch(/truncated/);
  });

  it.each([
    ['a wrong checksum', (h: Uint8Array) => (h[0]! ^= 1), 'bad-hash'],
    ['a checksum that is no number', (h: Uint8Array) => h.set(latin1('xx'), 148), 'bad-field'],
  ] as const)('with %s are refused', async (_what, change, code) => {
    const bytes = two();
    change(bytes);
    expect(await codeOf(() => read(bytes))).toBe(code);
  });

  it('with a size past the end, or one that is no number, are refused', async () => {
    const bytes = two();
    bytes.set(resizedTarHeader(bytes.subarray(0, 512), 1_000_000));
    expect(await codeOf(() => read(bytes))).toBe('truncated');
    const odd = two();
    odd.set(latin1('zzz'), 124);
    odd.set(latin1(`${tarChecksum(odd).toString(8).padStart(6, '0')}\0 `), 148);
    expect(await codeOf(() => read(odd))).toBe('bad-field');
  });

  it('are told from other bytes', async () => {
    expect(await isTar(memorySource(two()))).toBe(true);
    expect(await isTar(memorySource(seeded(1, 2000)))).toBe(false);
    expect(await isTar(memorySource(new Uint8Array(1024)))).toBe(false);
    expect(await isTar(memorySource(new Uint8Array(10)))).toBe(false);
  });

  it('resized keep all else, and read back', () => {
    const stock = tarMember({ name: 'a.img', bytes: seeded(1, 700) }).slice(0, 512);
    const fresh = resizedTarHeader(stock, 1234);
    expect(parseTarHeader(fresh, 'x', 0)).toEqual({ name: 'a.img', size: 1234, type: '0' });
    expect(
      [...fresh].filter((byte, i) => byte !== stock[i] && !(i >= 124 && i < 136) && !(i >= 148 && i < 156)),
    ).toEqual([]);
  });

  it('survive any change of any byte', async () => {
    const base = two();
    await fc.assert(
      fc.asyncProperty(fc.nat(base.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = base.slice();
        bytes[at] = value;
        await answersProperly(() => read(bytes));
      }),
      tries(400),
    );
  });
});

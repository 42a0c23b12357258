import { mkdtemp, open, readdir, readFile, rm, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { codeOf, errorOf } from '../../../tests/fixtures/expect-error';
import { seeded } from '../../../tests/fixtures/images';
import { fileSink, writeFileWhole } from './file-sink';
import { openFile } from './file-source';

let dir: string;
const path = (name: string) => join(dir, name);
beforeEach(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-files-'));
});
afterEach(() => rm(dir, { recursive: true, force: true }));

describe('files', () => {
  it('are read by ranges, any number at once', async () => {
    const bytes = seeded(1, 300_000);
    await writeFile(path('a.bin'), bytes);
    const source = await openFile(path('a.bin'));
    const ranges = Array.from({ length: 20 }, (_, i) => [i * 14_000, i * 14_000 + 9_000] as const);
    const read = await Promise.all(ranges.map(([start, end]) => source.read(start, end)));
    read.forEach((part, i) => expect(part).toEqual(bytes.slice(...ranges[i]!)));
    expect(source).toMatchObject({ size: 300_000, name: 'a.bin' });
    await source.close();
  });
  it('that are not there, or are folders, are refused by name', async () => {
    expect(await errorOf(() => openFile(path('none.img')))).toMatchObject({
      code: 'not-found',
      file: 'none.img',
    });
    expect(await codeOf(() => openFile(dir))).toBe('bad-field');
  });
  it('that shrink while they are read are cut off', async () => {
    await writeFile(path('a.bin'), seeded(1, 5000));
    const source = await openFile(path('a.bin'));
    await truncate(path('a.bin'), 100);
    expect(await codeOf(() => source.read(50, 2000))).toBe('truncated');
    await source.close();
  });
  it('past their end are not read', async () => {
    await writeFile(path('a.bin'), seeded(1, 50));
    const source = await openFile(path('a.bin'));
    expect(await codeOf(() => source.read(0, 51))).toBe('truncated');
    await source.close();
  });
});

describe('an image on its way to its place', () => {
  it('is not there until it is committed, and then whole', async () => {
    const sink = fileSink(path('out.img'));
    await sink.begin(10_000);
    await sink.writeAt(5000, seeded(2, 100));
    expect((await readdir(dir)).includes('out.img')).toBe(false);
    const back = await sink.readBack();
    expect(await back.read(5000, 5100)).toEqual(seeded(2, 100));
    expect((await back.read(0, 10)).every((byte) => byte === 0)).toBe(true);
    await sink.commit();
    await sink.discard();
    expect(await readdir(dir)).toEqual(['out.img']);
    expect((await readFile(path('out.img'))).length).toBe(10_000);
  });
  it('leaves nothing when it is thrown away', async () => {
    const sink = fileSink(path('out.img'));
    await sink.begin(100);
    await sink.discard();
    await sink.discard();
    expect(await readdir(dir)).toEqual([]);
  });
  it('takes the place of an older file only when it is whole', async () => {
    await writeFile(path('out.img'), 'old');
    const sink = fileSink(path('out.img'));
    await sink.begin(3);
    await sink.writeAt(0, new TextEncoder().encode('new'));
    expect(await readFile(path('out.img'), 'utf8')).toBe('old');
    await sink.commit();
    expect(await readFile(path('out.img'), 'utf8')).toBe('new');
  });
  it('of two at once both end whole', async () => {
    await Promise.all(
      Array.from({ length: 8 }, (_, i) => writeFileWhole(path('same.bin'), seeded(i + 1, 50_000))),
    );
    const bytes = new Uint8Array(await readFile(path('same.bin')));
    expect(
      Array.from({ length: 8 }, (_, i) => seeded(i + 1, 50_000)).some(
        (one) => Buffer.compare(one, bytes) === 0,
      ),
    ).toBe(true);
    expect(await readdir(dir)).toEqual(['same.bin']);
  });
  it('into a folder that is not there fails as such', async () => {
    expect(await codeOf(() => writeFileWhole(join(dir, 'no', 'x'), seeded(1, 5)))).toBe('io');
    const handle = await open(path('file'), 'w');
    await handle.close();
    expect(await codeOf(() => writeFileWhole(join(path('file'), 'x'), seeded(1, 5)))).toBe('io');
  });
});

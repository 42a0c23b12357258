import { generateKeyPairSync } from 'node:crypto';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { brotliCompressSync } from 'node:zlib';
import { runVerb } from '@/cli/run-verb';
import { concatBytes } from '@/core/bytes/bytes';
import { writeBinaryPatch } from '@/core/formats/binary-patch/write-patch';
import { archiveBytes } from '@/core/formats/cpio/cpio-archive';
import { writeIncrementalPayload } from '@/core/formats/payload/write-incremental';
import { nodePorts } from '@/platform/node/node-ports';
import { archive, entry, kitZip, seeded, stockEntries, stockImage } from '../fixtures/images';
import { tarBytes } from '../fixtures/tars';

/* The command's verbs that make, compare and take back images, on real files. */

let dir: string;
const path = (name: string) => join(dir, name);
const run = (...argv: string[]) => runVerb(argv, { signal: new AbortController().signal });
beforeEach(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-images-'));
  await writeFile(path('stock.img'), await stockImage());
  await writeFile(path('burrow.kit.zip'), await kitZip());
});
afterEach(() => rm(dir, { recursive: true, force: true }));

describe('patching and back', () => {
  it('with data brought up to date, signed, and nothing else by accident', async () => {
    await writeFile(
      path('key.pem'),
      generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey.export({
        type: 'pkcs8',
        format: 'pem',
      }) as string,
    );
    const patch = (...more: string[]) =>
      run(
        'patch',
        path('stock.img'),
        '--kit',
        path('burrow.kit.zip'),
        '--out',
        path('patched.img'),
        '--force',
        ...more,
      );
    expect(await patch('--avb', 'rehash')).toMatchObject({ exit: 0, out: { avb: 'rehash' } });
    expect(await run('inspect', path('patched.img'))).toMatchObject({
      out: { avb: { algorithm: 0, digestValid: true, signatureValid: null } },
    });
    expect(await patch('--avb', 'sign', '--key', path('key.pem'))).toMatchObject({
      exit: 0,
      out: { avb: 'sign' },
    });
    expect(await run('inspect', path('patched.img'))).toMatchObject({
      out: { avb: { algorithm: 1, digestValid: true, signatureValid: true } },
    });
    expect(await patch('--avb', 'sign')).toMatchObject({ exit: 2, error: { code: 'usage' } });
    expect(await patch('--avb', 'carry', '--key', path('key.pem'))).toMatchObject({ exit: 2 });
    expect(await patch('--avb', 'sign', '--key', path('stock.img'))).toMatchObject({
      exit: 3,
      error: { code: 'key-invalid' },
    });
    expect(await patch('--avb', 'other')).toMatchObject({ exit: 2 });
  });

  it('unpatch gives the stock image, or says which one is needed', async () => {
    await run('patch', path('stock.img'), '--kit', path('burrow.kit.zip'), '--out', path('patched.img'));
    const unpatch = (...more: string[]) =>
      run(
        'unpatch',
        path('patched.img'),
        '--kit',
        path('burrow.kit.zip'),
        '--out',
        path('back.img'),
        '--force',
        ...more,
      );
    expect(await unpatch()).toMatchObject({ exit: 3, error: { code: 'not-found' } });
    expect(await readdir(dir)).not.toContain('back.img');
    expect(await unpatch('--stock', path('stock.img'))).toMatchObject({ exit: 0, out: { exact: true } });
    expect(await readFile(path('back.img'))).toEqual(await readFile(path('stock.img')));
  });

  it('compare tells what became of an image', async () => {
    await run('patch', path('stock.img'), '--kit', path('burrow.kit.zip'), '--out', path('patched.img'));
    expect(await run('compare', path('stock.img'), path('patched.img'))).toMatchObject({
      exit: 0,
      out: { same: false, entries: { moved: [{ from: 'init' }], removed: [{ name: 'verity_key' }] } },
    });
    expect(await run('compare', path('stock.img'))).toMatchObject({ exit: 2 });
  });

  it('kit check says what a kit holds, or all that is wrong', async () => {
    expect(await run('kit', 'check', path('burrow.kit.zip'))).toMatchObject({
      exit: 0,
      out: { valid: true, id: 'burrow', steps: 9, files: ['files/su', 'files/init'] },
    });
    await writeFile(path('bad.zip'), await kitZip({ channel: 'x', versionCode: 'y' }));
    const { exit, error } = await run('kit', 'check', path('bad.zip'));
    expect([exit, error?.code]).toEqual([3, 'kit-invalid']);
    expect(error?.message).toMatch(/versionCode.*channel/);
    expect(await run('kit', 'show', path('bad.zip'))).toMatchObject({ exit: 2 });
  });
});

describe('pack', () => {
  it.each([0, 1, 2, 3, 4])(
    'makes a boot image of version %d that inspects as it was told',
    async (version) => {
      await writeFile(path('kernel'), seeded(1, 9000));
      await writeFile(path('ramdisk'), archiveBytes(archive(entry('init', 'x'))));
      const parts = [
        '--kernel',
        path('kernel'),
        '--ramdisk',
        path('ramdisk'),
        '--cmdline',
        'a=1',
        '--os-version',
        '16',
        '--patch-level',
        '2026-11',
      ];
      expect(
        await run('pack', '--header-version', String(version), ...parts, '--out', path('made.img')),
      ).toMatchObject({
        exit: 0,
        out: { kind: 'boot' },
      });
      expect(await run('inspect', path('made.img'))).toMatchObject({
        out: {
          headerVersion: version,
          cmdline: 'a=1',
          osVersion: '16.0.0',
          patchLevel: '2026-11',
          kernelPresent: true,
          idValid: version < 3 ? true : null,
          ramdisk: { entries: 1, compression: 'none' },
        },
      });
    },
  );

  it('makes a vendor_boot image with its ramdisks', async () => {
    await writeFile(path('platform'), archiveBytes(archive(entry('a', 'x'))));
    await writeFile(path('recovery'), archiveBytes(archive(entry('b', 'x'), entry('c', 'y'))));
    await writeFile(path('dtb'), seeded(2, 700));
    const ramdisks = [
      '--vendor-ramdisk',
      `platform::${path('platform')}`,
      '--vendor-ramdisk',
      `recovery:rescue:${path('recovery')}`,
    ];
    const made = await run(
      'pack',
      '--kind',
      'vendor_boot',
      '--header-version',
      '4',
      ...ramdisks,
      '--dtb',
      path('dtb'),
      '--name',
      'hill',
      '--out',
      path('made.img'),
    );
    expect(made).toMatchObject({ exit: 0 });
    expect(await run('inspect', path('made.img'))).toMatchObject({
      out: {
        kind: 'vendor_boot',
        name: 'hill',
        ramdisks: [
          { type: 'platform', entries: 1 },
          { type: 'recovery', name: 'rescue', entries: 2 },
        ],
      },
    });
  });

  it.each([
    ['no version', [], 2],
    ['a version there is not', ['--header-version', '7'], 2],
    ['a part the version has no place for', ['--header-version', '3', '--dtb', 'stock.img'], 2],
    ['a page size of its own', ['--header-version', '4', '--page-size', '2048'], 2],
    ['a patch level that is none', ['--header-version', '4', '--os-version', '16', '--patch-level', 'x'], 2],
    ['a command line that is too long', ['--header-version', '4', '--cmdline', 'x'.repeat(2000)], 3],
    ['a vendor ramdisk that is not told', ['--kind', 'vendor_boot', '--vendor-ramdisk', 'x'], 2],
  ])('refuses %s', async (_what, options, exit) => {
    const full = options.map((option) => (option === 'stock.img' ? path(option) : option));
    expect((await run('pack', ...full, '--out', path('made.img'))).exit).toBe(exit);
    expect(await readdir(dir)).not.toContain('made.img');
  });
});

describe('several files', () => {
  it('a folder of tars is one set; repack writes it again with a new image', async () => {
    await mkdir(path('set'));
    const stock = await readFile(path('stock.img'));
    await writeFile(
      path('set/SYS_T9.tar.md5'),
      tarBytes(
        [{ name: 'init_boot.img.lz4', bytes: await nodePorts.codecs.encode('lz4-frame', stock) }],
        'SYS_T9.tar',
      ),
    );
    await writeFile(path('set/RADIO_T9.tar'), tarBytes([{ name: 'modem.bin', bytes: seeded(1, 900) }]));
    expect(await run('identify', path('set'))).toMatchObject({
      exit: 0,
      out: { kind: 'tar-set', images: [{ partition: 'init_boot' }] },
    });
    await writeFile(path('new.img'), await stockImage({ entries: [...stockEntries(), entry('added', 'x')] }));
    const repacked = await run(
      'repack',
      path('set'),
      '--replace',
      `init_boot.img.lz4=${path('new.img')}`,
      '--out',
      path('out'),
    );
    expect(repacked).toMatchObject({
      exit: 0,
      out: { archives: [{ replaced: [] }, { replaced: ['init_boot.img.lz4'] }], userData: [] },
    });
    expect((await readdir(path('out'))).sort()).toEqual(['RADIO_T9.tar', 'SYS_T9.tar.md5']);
    expect(await run('take', path('out'), '--image', 'init_boot', '--out', path('taken.img'))).toMatchObject({
      exit: 0,
      out: { verified: true },
    });
    expect(await readFile(path('taken.img'))).toEqual(await readFile(path('new.img')));
    expect(await run('repack', path('set'), '--out', path('out2'))).toMatchObject({ exit: 2 });
    expect(
      await run('repack', path('set'), '--replace', `gone.img=${path('new.img')}`, '--out', path('out3')),
    ).toMatchObject({
      exit: 3,
      error: { code: 'not-found' },
    });
    expect(await readdir(path('out3'))).toEqual([]);
    expect(await run('identify', path('empty-folder'))).toMatchObject({
      exit: 3,
      error: { code: 'not-found' },
    });
  });

  it('an incremental payload makes the new image from the old one', async () => {
    const old = await readFile(path('stock.img'));
    const fresh = new Uint8Array(old);
    fresh[9000]! ^= 1;
    const makePatch = (a: Uint8Array, b: Uint8Array) =>
      writeBinaryPatch(a, b, {
        packing: 'brotli',
        pack: (bytes) => new Uint8Array(brotliCompressSync(bytes)),
      });
    const about = { blockSize: 4096, maxTimestamp: 1, securityPatchLevel: '2026-11-05' };
    const payload = await writeIncrementalPayload(
      [{ name: 'init_boot', old, fresh, runBlocks: 4 }],
      about,
      makePatch,
      nodePorts,
    );
    await writeFile(path('payload.bin'), concatBytes(payload.parts));
    const take = (...more: string[]) =>
      run('take', path('payload.bin'), '--image', 'init_boot', '--out', path('new.img'), ...more);
    expect(await run('identify', path('payload.bin'))).toMatchObject({
      out: { incremental: true, images: [{ needsSource: true, unsupported: [] }] },
    });
    expect(await take()).toMatchObject({ exit: 3, error: { code: 'not-found' } });
    expect(await take('--source', path('burrow.kit.zip'))).toMatchObject({
      exit: 3,
      error: { code: 'wrong-source' },
    });
    expect(await readdir(dir)).not.toContain('new.img');
    expect(await take('--source', path('stock.img'))).toMatchObject({ exit: 0, out: { verified: true } });
    expect(new Uint8Array(await readFile(path('new.img')))).toEqual(fresh);
  });
});

import { spawn } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { runVerb } from '@/cli/run-verb';
import { concatBytes } from '@/core/bytes/bytes';
import { CHUNK, chunkHeaderBytes, sparseHeaderBytes } from '@/core/formats/sparse/layout';
import { kitZip, seeded, stockImage } from '../fixtures/images';
import { DUMP, sha256 } from '../fixtures/server-world';

let dir: string;
const path = (name: string) => join(dir, name);
const run = (...argv: string[]) => runVerb(argv, { signal: new AbortController().signal });

beforeEach(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-command-'));
  await writeFile(path('stock.img'), await stockImage());
  await writeFile(path('burrow.kit.zip'), await kitZip());
});
afterEach(() => rm(dir, { recursive: true, force: true }));

describe('what is there already', () => {
  it.each([
    ['take', ['stock.img', '--image', 'init_boot', '--out', 'old']],
    ['take', ['stock.img', '--image', 'init_boot', '--out=old']],
    ['patch', ['stock.img', '--kit', 'burrow.kit.zip', '--out', 'old']],
    ['sparse', ['stock.img', '--out', 'old']],
    ['list', ['stock.img', '--path', 'init', '--out', 'old']],
  ] as const)('is never replaced by %s, unless that is said', async (verb, args) => {
    await writeFile(path('old'), 'mine');
    const named = args.map((one) =>
      one === '--out=old'
        ? `--out=${path('old')}`
        : ['stock.img', 'burrow.kit.zip', 'old'].includes(one)
          ? path(one)
          : one,
    );
    expect(await run(verb, ...named)).toMatchObject({ exit: 4, error: { code: 'refused', file: 'old' } });
    expect(await readFile(path('old'), 'utf8')).toBe('mine');
    expect(await run(verb, ...named, '--force')).toMatchObject({ exit: 0, error: null });
    expect(await readFile(path('old'), 'utf8')).not.toBe('mine');
  });
});

describe('help', () => {
  const helpOf = async (...argv: string[]) => {
    const answer = await run(...argv);
    expect(answer).toMatchObject({ exit: 0, error: null });
    return (answer.out as { help: string }).help;
  };
  it('names every verb that there is', async () => {
    const known = /verbs: (.*), batch/.exec((await run('nothing')).error!.message)![1]!.split(', ');
    for (const words of [await helpOf('help'), await helpOf('--help')])
      for (const verb of known) expect(words).toContain(`  ${verb}`);
  });
  it.each(['take', 'patch', 'fit', 'plan', 'stand-in'])(
    '%s --help tells its options and an example, and does nothing',
    async (verb) => {
      const words = await helpOf(verb, '--help');
      expect(words).toMatch(new RegExp(`^eterno ${verb} `));
      expect(words).toContain('Example: eterno');
      expect(await helpOf('help', verb)).toBe(words);
    },
  );
  it('of a verb that reads JSON gives its shape', async () => {
    expect(await helpOf('fit', '--help')).toContain('fingerprint');
    expect(await helpOf('plan', '--help')).toContain('rootPartition');
  });
});

describe('verbs', () => {
  it('identify, take and inspect an image', async () => {
    const stock = await readFile(path('stock.img'));
    expect(await run('identify', path('stock.img'))).toMatchObject({
      exit: 0,
      out: { kind: 'bare-image', images: [{ partition: 'init_boot', size: stock.length }] },
    });
    expect(
      await run('take', path('stock.img'), '--image', 'init_boot', '--out', path('out.img')),
    ).toMatchObject({
      exit: 0,
      out: { partition: 'init_boot', sha256: sha256(stock), verified: true, out: path('out.img') },
    });
    expect(await readFile(path('out.img'))).toEqual(stock);
    expect(await run('inspect', path('out.img'))).toMatchObject({
      exit: 0,
      out: {
        kind: 'boot',
        headerVersion: 4,
        kernelPresent: false,
        ramdisk: { compression: 'lz4-legacy', entries: 5 },
      },
    });
  });

  it('hold a package against a handset’s facts', async () => {
    await writeFile(path('dump.txt'), DUMP);
    const facts = async (change: object = {}) => {
      await writeFile(
        path('facts.json'),
        JSON.stringify({ ...(await run('facts', path('dump.txt'))).out, ...change }),
      );
      return run('fit', path('stock.img'), '--facts', path('facts.json'));
    };
    expect(await facts()).toMatchObject({ exit: 0, out: { verdict: 'exact' } });
    expect(await facts({ fingerprint: null })).toMatchObject({
      exit: 0,
      out: {
        verdict: "can't tell",
        missing: expect.arrayContaining(['fingerprint of the handset']) as unknown,
      },
    });
    expect(await facts({ device: 'dale' })).toMatchObject({ exit: 0, out: { verdict: 'other handset' } });
    expect(await facts({ fingerprint: {} })).toMatchObject({
      exit: 3,
      error: { code: 'bad-field', file: 'facts.json' },
    });
    await writeFile(path('facts.json'), '[');
    expect(await run('fit', path('stock.img'), '--facts', path('facts.json'))).toMatchObject({
      exit: 3,
      error: { code: 'bad-field' },
    });
    expect(await run('fit', path('stock.img'))).toMatchObject({ exit: 2 });
  });

  it('list entries and take one out', async () => {
    const listed = await run('list', path('stock.img'));
    expect(listed.out).toMatchObject({ archives: [{ compression: 'lz4-legacy' }] });
    expect(await run('list', path('stock.img'), '--path', 'verity_key', '--out', path('key'))).toMatchObject({
      exit: 0,
      out: { size: 5 },
    });
    expect(await readFile(path('key'), 'utf8')).toBe('a key');
    expect(await run('list', path('stock.img'), '--path', 'verity_key')).toMatchObject({
      exit: 2,
      error: { code: 'usage' },
    });
  });

  it('patch with a proof, and never twice', async () => {
    const patched = await run(
      'patch',
      path('stock.img'),
      '--kit',
      path('burrow.kit.zip'),
      '--out',
      path('patched.img'),
    );
    expect(patched).toMatchObject({
      exit: 0,
      out: { kit: 'burrow 7.3', avb: 'carry', stockSha256: sha256(await readFile(path('stock.img'))) },
    });
    expect((patched.out as { sha256: string }).sha256).toBe(sha256(await readFile(path('patched.img'))));
    expect((patched.out as { proof: { ok: boolean }[] }).proof.every((line) => line.ok)).toBe(true);
    expect(await run('inspect', path('patched.img'))).toMatchObject({
      out: { patchedBy: { kit: 'burrow 7.3' } },
    });
    expect(
      await run('patch', path('patched.img'), '--kit', path('burrow.kit.zip'), '--out', path('twice.img')),
    ).toMatchObject({
      exit: 4,
      error: { code: 'already-patched' },
    });
    expect(await readdir(dir)).not.toContain('twice.img');
  });

  it('turn a few bytes that stand for gigabytes of nothing into a file that takes no room, and refuse those that stand for a pattern', async () => {
    const GIB = 1024 ** 3;
    const image = (type: number, data: Uint8Array) =>
      concatBytes([
        sparseHeaderBytes({ blockBytes: 4096, totalBlocks: (8 * GIB) / 4096, totalChunks: 1, crc32: 0 }),
        chunkHeaderBytes(type, (8 * GIB) / 4096, data.length),
        data,
      ]);
    const [zeros, pattern] = [new Uint8Array(4), Uint8Array.of(1, 2, 3, 4)];
    for (const bytes of [image(CHUNK.skip, new Uint8Array(0)), image(CHUNK.fill, zeros)]) {
      await writeFile(path('nothing.img'), bytes);
      expect(await run('unsparse', path('nothing.img'), '--out', path('big.img'), '--force')).toMatchObject({
        exit: 0,
        out: { size: 8 * GIB },
      });
      const { size, blocks } = await stat(path('big.img'));
      expect(size).toBe(8 * GIB);
      expect(blocks * 512).toBeLessThan(1 << 20);
    }
    await writeFile(path('pattern.img'), image(CHUNK.fill, pattern));
    expect(await run('unsparse', path('pattern.img'), '--out', path('full.img'))).toMatchObject({
      exit: 3,
      error: { code: 'too-large' },
    });
  });

  it('turn an image sparse and back', async () => {
    const stock = await readFile(path('stock.img'));
    expect(await run('sparse', path('stock.img'), '--out', path('s.img'))).toMatchObject({ exit: 0 });
    expect((await readFile(path('s.img'))).length).toBeLessThan(stock.length);
    expect(await run('unsparse', path('s.img'), '--out', path('back.img'))).toMatchObject({
      exit: 0,
      out: { size: stock.length },
    });
    expect(await readFile(path('back.img'))).toEqual(stock);
    expect(await run('unsparse', path('stock.img'), '--out', path('no.img'))).toMatchObject({
      exit: 3,
      error: { code: 'bad-magic' },
    });
    expect(await readdir(dir)).not.toContain('no.img');
  });

  it('read facts from what a handset printed', async () => {
    await writeFile(path('dump.txt'), `${DUMP}\nsome noise\n`);
    const { out, exit } = await run('facts', path('dump.txt'));
    expect(exit).toBe(0);
    expect(out).toMatchObject({
      device: 'hill',
      serial: 'SERIAL42',
      sdk: 36,
      unlocked: true,
      values: { 'ro.build.id': 'HC1.260905.007' },
      unread: ['some noise'],
    });
  });
});

describe('errors', () => {
  it.each([
    [[], 2, 'usage'],
    [['hop'], 2, 'usage'],
    [['__proto__'], 2, 'usage'],
    [['identify'], 2, 'usage'],
    [['inspect', 'a', 'b'], 2, 'usage'],
    [['take', 'stock.img', '--out', 'x'], 2, 'usage'],
    [['patch', 'stock.img', '--kit', 'burrow.kit.zip', '--out', 'x', '--avb', 'odd'], 2, 'usage'],
    [['inspect', '--what'], 2, 'usage'],
    [['inspect', 'none.img'], 3, 'not-found'],
    [['facts', 'none.txt'], 3, 'not-found'],
    [['take', 'stock.img', '--image', 'boot', '--out', 'x'], 3, 'not-found'],
    [['inspect', 'noise.img'], 3, 'bad-magic'],
    [['inspect', 'empty.img'], 3, 'truncated'],
    [['patch', 'stock.img', '--kit', 'noise.img', '--out', 'x'], 3, 'kit-invalid'],
    [['take', 'stock.img', '--image', 'init_boot', '--out', 'no/such/folder/x'], 1, 'io'],
    [['stand-in', '--profile', '../x'], 2, 'usage'],
    [['stand-in', '--port', '99999'], 2, 'usage'],
  ])('%j exits %d with %s and leaves nothing', async (argv, exit, code) => {
    await writeFile(path('noise.img'), seeded(1, 9000));
    await writeFile(path('empty.img'), '');
    const before = await readdir(dir);
    const here = argv.map((part, i) =>
      i > 0 && /\.(img|zip|txt)$|^x$|^no\//.test(part) ? path(part) : part,
    );
    const answer = await run(...here);
    expect(answer).toMatchObject({ exit, out: null, error: { code } });
    expect(answer.error!.message).not.toBe('');
    expect((await readdir(dir)).sort()).toEqual(before.sort());
  });

  it('of a damaged package leave nothing at the output path', async () => {
    const bytes = await readFile(path('stock.img'));
    await writeFile(path('cut.img'), bytes.subarray(0, 6000));
    expect((await run('take', path('cut.img'), '--image', 'init_boot', '--out', path('x.img'))).exit).toBe(3);
    expect(await readdir(dir)).not.toContain('x.img');
  });
});

describe('the program itself', () => {
  function program(
    args: readonly string[],
    input = '',
  ): Promise<{ exit: number | null; out: string; err: string }> {
    return new Promise((resolve) => {
      const child = spawn(process.execPath, ['--import', 'tsx', 'src/cli/eterno.ts', ...args]);
      let [out, err] = ['', ''];
      child.stdout.on('data', (bytes: Buffer) => (out += bytes.toString()));
      child.stderr.on('data', (bytes: Buffer) => (err += bytes.toString()));
      child.on('close', (exit) => resolve({ exit, out, err }));
      child.stdin.end(input);
    });
  }

  it('prints one object, or ends its errors with one line', async () => {
    const good = await program(['inspect', path('stock.img')]);
    expect(good.exit).toBe(0);
    expect(JSON.parse(good.out)).toMatchObject({ kind: 'boot' });
    const bad = await program(['inspect', path('none.img')]);
    expect(bad).toMatchObject({ exit: 3, out: '' });
    expect(JSON.parse(bad.err.trim().split('\n').at(-1)!)).toMatchObject({
      error: { code: 'not-found', file: 'none.img' },
    });
  });

  it('answers a batch line by line, whatever a line holds', async () => {
    const lines = [
      JSON.stringify(['inspect', path('stock.img')]),
      'not json',
      '{"a":1}',
      '["inspect", 5]',
      '',
      JSON.stringify(['identify', path('burrow.kit.zip')]),
    ];
    const { out, exit } = await program(['batch'], `${lines.join('\n')}\n`);
    const answers = out
      .trim()
      .split('\n')
      .map(
        (line) =>
          JSON.parse(line) as { exit: number; out: { kind: string } | null; error: { code: string } | null },
      );
    expect(exit).toBe(0);
    expect(answers.map((answer) => answer.exit)).toEqual([0, 2, 2, 2, 0]);
    expect(answers[0]).toMatchObject({ out: { kind: 'boot' }, error: null });
    expect(answers[1]).toMatchObject({ out: null, error: { code: 'usage' } });
    expect(answers[4]!.out!.kind).toBe('kit');
  });
});

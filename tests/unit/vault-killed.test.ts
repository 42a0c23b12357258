import { spawn } from 'node:child_process';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { listImages } from '@/server/repositories/image-repository';
import { filesInVault, isWhole, sweepVault } from '@/server/vault/vault';
import { bundledChild } from '../fixtures/bundled-child';
import { numbers } from '../fixtures/mutate';
import { freshServer } from '../fixtures/server-world';
import { SEED, times } from '../fixtures/soak';

let server: Awaited<ReturnType<typeof freshServer>>;
let child: string;
const folder = process.env.TMPDIR;
beforeAll(async () => {
  // on a disk, where a write takes long enough to be killed in the middle of it
  delete process.env.TMPDIR;
  server = await freshServer();
  child = await bundledChild('tests/unit/vault-writer.ts');
});
afterAll(async () => {
  if (folder) process.env.TMPDIR = folder;
  await server.end();
});

const KILLS = times(30, 600);
/** Children at work in one vault at a time. */
const AT_ONCE = 5;

/** Hashes that the child said it had kept before it was killed in the middle of its work. */
function killedAfter(ms: number): Promise<string[]> {
  return new Promise((resolve) => {
    const writer = spawn(process.execPath, [child], { env: { ...process.env, ETERNO_DATA: server.dir } });
    let said = '';
    writer.stdout.on('data', (bytes: Buffer) => {
      if (said === '') setTimeout(() => writer.kill('SIGKILL'), ms);
      said += bytes.toString();
    });
    writer.on('close', () => resolve(said.split('\n').filter((line) => line.length === 64)));
  });
}

it(
  'a vault whose writers are killed in mid-write again and again holds nothing half and has lost nothing',
  async () => {
    const kept: string[] = [];
    const next = numbers(SEED);
    for (let killed = 0; killed < KILLS; killed += AT_ONCE) {
      const wave = Array.from({ length: AT_ONCE }, () => killedAfter(1 + next(61)));
      for (const hashes of await Promise.all(wave)) kept.push(...hashes);
    }
    expect(kept.length).toBeGreaterThanOrEqual(KILLS);
    const recorded = new Set((await listImages()).map((image) => image.sha256));
    // what was said to be kept is there, whole and recorded; and so is all that is recorded
    for (const hash of kept) expect(recorded.has(hash), hash).toBe(true);
    for (const hash of recorded) expect(await isWhole('images', hash), hash).toBe(true);
    expect(await sweepVault()).toBeGreaterThan(0);
    // a file may have come to its place just before it could be recorded: it is whole, and nobody's
    const files = await filesInVault();
    for (const hash of files) expect(await isWhole('images', hash), hash).toBe(true);
    expect(files.length - recorded.size).toBeLessThanOrEqual(KILLS);
    expect(await sweepVault()).toBe(0);
  },
  times(300_000, 7_200_000),
);

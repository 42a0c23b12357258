import { spawn } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { isWhole, sweepVault, vaultSize } from '@/server/vault/vault';

let dir: string;
beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'eterno-killed-'));
  process.env.ETERNO_DATA = dir;
});
afterAll(() => rm(dir, { recursive: true, force: true }));

/** Hashes that the child said it had kept before it was killed in the middle of its work. */
function killedAfter(ms: number): Promise<string[]> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, ['--conditions=react-server', '--import', 'tsx', 'tests/unit/vault-writer.ts'], {
      env: { ...process.env, ETERNO_DATA: dir },
    });
    let said = '';
    child.stdout.on('data', (bytes: Buffer) => {
      if (said === '') setTimeout(() => child.kill('SIGKILL'), ms);
      said += bytes.toString();
    });
    child.on('close', () => resolve(said.split('\n').filter((line) => line.length === 64)));
  });
}

it('a vault whose writer is killed in mid-write holds no half file and has lost none', async () => {
  let kept: string[] = [];
  for (let round = 0; round < 6; round += 1) kept = [...kept, ...(await killedAfter(7 + round * 13))];
  expect(kept.length).toBeGreaterThan(6);
  for (const hash of kept) expect(await isWhole('images', hash), hash).toBe(true);
  await sweepVault();
  const { files } = await vaultSize();
  // a file may have been moved into its place just before the child could say so
  expect(files).toBeGreaterThanOrEqual(kept.length);
  expect(files).toBeLessThanOrEqual(kept.length + 6);
  expect(await sweepVault()).toBe(0);
});

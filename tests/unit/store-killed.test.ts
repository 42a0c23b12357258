import { spawn } from 'node:child_process';
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, beforeAll, describe, expect, it } from 'vitest';
import { closeDatabase } from '@/server/db/connection';
import { migrate } from '@/server/db/migrate';
import { backupResponse } from '@/server/services/backup-service';
import { storeImage } from '@/server/services/image-service';
import { recover } from '@/server/services/recover';
import { StandInStore } from '@/stand-in/stand-in-store';
import { bundledChild } from '../fixtures/bundled-child';
import { checkStore, toldOf } from '../fixtures/check-store';
import { stockImage } from '../fixtures/images';
import { LANE_PROFILE } from '../fixtures/lane-world';
import { numbers } from '../fixtures/mutate';
import { freshServer, pieces, sha256 } from '../fixtures/server-world';
import { SEED, times } from '../fixtures/soak';

/*
 * A server that is killed in the middle of patches, restores and writes: the next start finds a store that a
 * checker of its own calls whole.
 */

let child: string;
beforeAll(async () => {
  child = await bundledChild('tests/unit/store-worker.ts');
});
const folders: string[] = [];
afterEach(async () => {
  await closeDatabase();
  for (const folder of folders.splice(0)) await rm(folder, { recursive: true, force: true });
});

/** Kills the child `ms` after it says that it is at it. @returns all that it said */
function killedAfter(ms: number, dir: string, ...work: readonly string[]): Promise<string[]> {
  return new Promise((resolve) => {
    const worker = spawn(process.execPath, [child, ...work], {
      env: { ...process.env, ETERNO_DATA: dir },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let said = '';
    worker.stdout.on('data', (bytes: Buffer) => {
      const before = said.includes('at it');
      said += bytes.toString();
      if (!before && said.includes('at it')) setTimeout(() => worker.kill('SIGKILL'), ms);
    });
    worker.on('close', () => resolve(said.trim().split('\n')));
  });
}

/** What the next start makes of a store. */
async function startAgain(dir: string): Promise<void> {
  await closeDatabase();
  process.env.ETERNO_DATA = dir;
  await migrate();
  await recover();
  await closeDatabase();
}

const KILLS = times(2, 100);
const LONG = times(120_000, 7_200_000);

describe('a store whose server is killed again and again', () => {
  it('in the middle of patches', { timeout: LONG }, async () => {
    const server = await freshServer();
    folders.push(server.dir);
    const next = numbers(SEED);
    for (let i = 0; i < KILLS; i += 1) {
      const ms = 1 + next(times(120, 400));
      await killedAfter(ms, server.dir, 'patches');
      await startAgain(server.dir);
      expect(await checkStore(server.dir), `kill ${i} after ${ms} ms`).toEqual([]);
    }
  });

  it('in the middle of restores', { timeout: LONG }, async () => {
    const source = await freshServer();
    for (let i = 0; i < 12; i += 1) {
      const image = await stockImage({ cmdline: `console=null n=${i}` });
      await storeImage(sha256(image), pieces(image), { from: 'file' });
    }
    const bytes = new Uint8Array(await (await backupResponse(true)).arrayBuffer());
    await source.end();
    const server = await freshServer();
    folders.push(server.dir);
    const backup = join(server.dir, 'b.zip');
    await writeFile(backup, bytes);
    const next = numbers(SEED + 1);
    for (let i = 0; i < KILLS; i += 1) {
      const ms = 1 + next(times(120, 400));
      await killedAfter(ms, server.dir, 'restores', backup);
      await startAgain(server.dir);
      expect(await checkStore(server.dir), `kill ${i} after ${ms} ms`).toEqual([]);
    }
    expect(sha256(await readFile(backup))).toBe(sha256(bytes));
  });

  it(
    'in the middle of writes: the slot map says what lies there, or that nobody knows',
    { timeout: LONG },
    async () => {
      const next = numbers(SEED + 2);
      for (let i = 0; i < KILLS; i += 1) {
        const ms = 1 + next(times(600, 1500));
        const [dir] = await killedAfter(ms, '', 'writes');
        folders.push(dir!);
        await startAgain(dir!);
        expect(await checkStore(dir!), `kill ${i} after ${ms} ms`).toEqual([]);
        const lies = sha256(
          await new StandInStore(join(dir!, 'stand-in', LANE_PROFILE)).readImage('init_boot_a'),
        );
        const told = await toldOf(dir!, 'init_boot', 'a');
        // nothing told: nothing was begun, and the stock image that was there at the beginning lies there
        if (told === null)
          expect(lies, `kill ${i} after ${ms} ms`).toBe(sha256(await stockImage({ partition: 'init_boot' })));
        else if (told.certainty !== 'unknown') expect(told.sha256, `kill ${i} after ${ms} ms`).toBe(lies);
      }
    },
  );
});

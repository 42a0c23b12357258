import { spawn } from 'node:child_process';
import { rm } from 'node:fs/promises';
import { afterEach, beforeAll, describe, expect, it } from 'vitest';
import { closeDatabase } from '@/server/db/connection';
import { migrate } from '@/server/db/migrate';
import { listRounds, stepsOf } from '@/server/repositories/round-repository';
import { recover } from '@/server/services/recover';
import { bundledChild } from '../fixtures/bundled-child';
import { checkStore, roundsSaid } from '../fixtures/check-store';
import { numbers } from '../fixtures/mutate';
import { SEED, times } from '../fixtures/soak';

/*
 * A round whose process is killed before any of its statements of SQL: the store says what it said before the
 * command, or what it says after it, never anything between. What it may say was written down, between the
 * commands, by a walk that was not killed.
 */

let child: string;
beforeAll(async () => {
  child = await bundledChild('tests/unit/round-worker.ts');
});
const folders: string[] = [];
afterEach(async () => {
  await closeDatabase();
  for (const folder of folders.splice(0)) await rm(folder, { recursive: true, force: true });
});

function walked(how: 'link' | 'hand', statement: number): Promise<string[]> {
  return new Promise((resolve) => {
    const worker = spawn(process.execPath, [child, how, String(statement)], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let said = '';
    worker.stdout.on('data', (bytes: Buffer) => (said += bytes.toString()));
    worker.on('close', () => {
      const lines = said.trim().split('\n');
      folders.push(lines[0]!);
      resolve(lines);
    });
  });
}

/** Only over the link a step goes on while the walk looks. */
const WALKS = { link: times(2, 5), hand: 1 };
const KILLS = { link: times(2, 100), hand: times(1, 100) };

describe.each(['link', 'hand'] as const)('a round by %s', (how) => {
  it(
    'is before or after each command, whenever its process is killed',
    { timeout: times(120_000, 3_600_000) },
    async () => {
      // a step that has begun may be over before anybody looks: what one walk misses another sees
      const wholes = await Promise.all(Array.from({ length: WALKS[how] }, () => walked(how, 0)));
      const allowed = new Set(
        wholes.flat().flatMap((line) => (line.startsWith('between ') ? [line.slice(8)] : [])),
      );
      const statements = Math.min(...wholes.map((lines) => Number(lines.at(-1)!.split(' ')[1])));
      expect(allowed.size).toBeGreaterThan(9);
      expect(statements).toBeGreaterThan(300);
      const next = numbers(SEED + (how === 'link' ? 3 : 4));
      for (let i = 0; i < KILLS[how]; i += 1) {
        const statement = 1 + next(statements);
        const [dir] = await walked(how, statement);
        expect(allowed, `killed before statement ${statement} of ${statements}`).toContain(
          await roundsSaid(dir!),
        );
        process.env.ETERNO_DATA = dir!;
        await migrate();
        await recover();
        const rounds = await listRounds();
        const steps = await stepsOf(rounds.map(({ id }) => id));
        expect(steps.filter(({ state }) => state === 'running')).toEqual([]);
        for (const { id, state } of rounds) {
          const open = steps.filter((step) => step.roundId === id && step.state !== 'done').length;
          expect(open > 0, `statement ${statement}: ${state} with ${open} steps to do`).toBe(
            state === 'open',
          );
        }
        await closeDatabase();
        expect(await checkStore(dir!), `statement ${statement}`).toEqual([]);
      }
    },
  );
});

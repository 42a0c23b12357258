import type { GoalId } from '@/core/planning/context';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { againSchema } from '@/contracts/round-inputs';
import { listEvents } from '@/server/repositories/event-repository';
import { findRound } from '@/server/repositories/round-repository';
import { addHandset } from '@/server/services/bench-service';
import { logFile } from '@/server/services/log-export';
import { logPage } from '@/server/services/log-page';
import { lastBad, lastGood } from '@/server/services/plan-service';
import { answerAgain } from '@/server/rounds/by-hand';
import { roundView } from '@/server/rounds/round-view';
import { EVERYTHING } from '@/contracts/log-view';
import { rawRound } from '../fixtures/raw-round';
import { codeOf } from '../fixtures/expect-error';
import { DUMP, freshServer } from '../fixtures/server-world';

/* The one question after a round, and what the next round of its kind makes of the answer. */

const HOUR = 3_600_000;
let server: Awaited<ReturnType<typeof freshServer>>;
let handset: string;
beforeEach(async () => {
  server = await freshServer();
  handset = await addHandset('North gate', DUMP);
});
afterEach(() => server.end());

async function aRound(
  hoursAgo: number,
  state: 'closed' | 'open' | 'given-up' = 'closed',
  kind: GoalId = 'monthly update',
): Promise<string> {
  const openedAt = Date.now() - hoursAgo * HOUR;
  const row = { kind, lane: 'update-in-place-other-slot', title: 'Monthly update' } as const;
  const ended = { state, version: 3, openedAt, closedAt: state === 'open' ? null : openedAt + 600_000 };
  return (await rawRound(handset, { ...row, ...ended })).id;
}
const good = async () => (await lastGood(handset, 'monthly update'))?.id ?? null;

describe('the same way again', () => {
  it('is asked of a closed round, kept, and can be answered anew', async () => {
    const id = await aRound(5);
    expect((await roundView(id)).again).toBeNull();
    await answerAgain(id, 3, 'no', 'restarted too early');
    expect((await roundView(id)).again).toEqual({ answer: 'no', note: 'restarted too early' });
    await answerAgain(id, 4, 'yes', 'restarted too early');
    expect((await roundView(id)).again).toEqual({ answer: 'yes', note: '' });
    expect(
      (await listEvents({ kind: 'same-way-again', roundId: id })).map(
        (event) => (JSON.parse(event.data) as { again: string }).again,
      ),
    ).toEqual(['no', 'yes']);
  });

  it.each(['open', 'given-up'] as const)(
    'is not answered for one that is %s, nor by a page that is not of now',
    async (state) => {
      const id = await aRound(5, state);
      expect(await codeOf(() => answerAgain(id, 3, 'yes', ''))).toBe('conflict');
      const closed = await aRound(4);
      expect(await codeOf(() => answerAgain(closed, 2, 'yes', ''))).toBe('conflict');
      expect((await findRound(closed))!.again).toBeNull();
    },
  );

  it('wants a reason for no', async () => {
    const at = { roundId: handset, version: 1 };
    await expect(againSchema.validate({ ...at, again: 'no', note: '  ' })).rejects.toThrow(
      'Say what was wrong',
    );
    expect(await againSchema.validate({ ...at, again: 'yes', note: '' })).toMatchObject({ again: 'yes' });
    await expect(againSchema.validate({ ...at, again: 'perhaps', note: 'x' })).rejects.toThrow();
  });

  it('makes the next round start from the newest that was good, and says what was wrong with the last', async () => {
    const [older, newer] = [await aRound(9), await aRound(5)];
    await aRound(2, 'closed', 'root again');
    expect(await good()).toBe(newer);
    await answerAgain(newer, 3, 'no', 'restarted too early');
    expect(await good()).toBe(older);
    expect(await lastBad(handset, 'monthly update')).toMatchObject({
      id: newer,
      note: 'restarted too early',
    });
    expect(await lastBad(handset, 'root again')).toBeNull();
    await answerAgain(older, 3, 'no', 'no backup');
    expect(await good()).toBeNull();
    // a later round that nobody complained of is what counts
    const newest = await aRound(1);
    expect(await good()).toBe(newest);
    expect(await lastBad(handset, 'monthly update')).toBeNull();
  });

  it('stands in the log, is found there, and goes out with it', async () => {
    const id = await aRound(5);
    await answerAgain(id, 3, 'no', 'restarted too early');
    const { rounds } = await logPage({ ...EVERYTHING, text: 'too early' }, 30);
    expect(rounds.map((round) => [round.id, round.again?.answer])).toEqual([[id, 'no']]);
    expect(await logFile('markdown', false)).toContain(
      'Not to be done the same way again: restarted too early',
    );
    expect(await logFile('json', false)).toContain('restarted too early');
  });
});

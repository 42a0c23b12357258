import { afterEach, describe, expect, it } from 'vitest';
import { OWN_VOCABULARY } from '@/core/steps/commands';
import { readHostTool } from '@/core/steps/host-tool';
import { newestFacts, updateHandset } from '@/server/repositories/handset-repository';
import { findRound, stepsOf } from '@/server/repositories/round-repository';
import { handView } from '@/server/rounds/hand-view';
import { roundContext } from '@/server/rounds/round-context';
import { roundView } from '@/server/rounds/round-view';
import { typeFact } from '@/server/services/fact-service';
import type { OwnCommands } from '@/server/services/vocabulary-service';
import { hostToolOf, saveCommands } from '@/server/services/vocabulary-service';
import { waysOf } from '@/server/services/plan-service';
import { sayAtStep } from '../fixtures/at-step';
import { begin, version } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';

/* What nobody has read of a handset is found out at a step of its own, and the plan follows what was found. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

const LIMITS = { computer: true, wipeAllowed: false, keepFuse: false };

async function byHand(): Promise<{ own: LaneWorld; round: string }> {
  const own = (world = await laneWorld({ facts: { snapshot: null } }));
  await own.keepPackageOf(OCTOBER);
  await updateHandset(own.handset, { link: 'hand', profile: null });
  return { own, round: await begin(own, 'first root') };
}
const keys = async (round: string) => (await stepsOf([round])).map(({ key }) => key);
const current = async (round: string) => {
  const { steps, current: at } = await roundView(round);
  return at === null ? null : steps[at]!.key;
};

describe('who writes by hand', () => {
  it('is Eterno’s own command until the person has given theirs', () => {
    const tool = 'tool version 31.0.2\nInstalled as /opt/tool\n';
    const of = (vocabulary: OwnCommands['vocabulary']) => hostToolOf({ shell: 'posix', vocabulary, tool });
    expect(of({})).toBe('own');
    expect(of({ restart: 'tool restart' })).toBe('own');
    expect(of({ write: OWN_VOCABULARY.write })).toBe('own');
    expect(of({ write: 'tool put {partition} {file}' })).toEqual(readHostTool(tool));
  });
});

describe('a round by hand', () => {
  it('asks for what nobody has read before it changes anything, and only for that', async () => {
    const { own, round } = await byHand();
    expect((await findRound(round))!.plan.unknown).toEqual(['snapshot']);
    expect((await keys(round)).slice(0, 2)).toEqual(['read-facts', 'find-out']);
    const ways = await waysOf(own.handset, { goal: 'first root', target: null, limits: LIMITS });
    expect(ways.assumptions.every(({ words, foundBy }) => words !== '' && foundBy !== '')).toBe(true);
    expect((await roundView(round)).asks).toEqual([]);
    await sayAtStep(round, await version(round), 'as it says');
    expect(await current(round)).toBe('find-out');
    expect((await roundView(round)).asks).toMatchObject([{ key: 'snapshot', said: null }]);
    await typeFact(own.handset, 'snapshot', 'none');
    expect((await roundView(round)).asks).toMatchObject([{ key: 'snapshot', said: 'none' }]);
    const before = (await keys(round)).slice(2);
    await sayAtStep(round, await version(round), 'nothing waits');
    expect((await keys(round)).slice(2)).toEqual(before);
    expect(await current(round)).not.toBe('find-out');
  });

  it('wants words of the person’s own tool only where a step takes a command on the computer', async () => {
    const { round } = await byHand();
    const context = await roundContext(round);
    const missing = async (wanted: string) =>
      (
        await handView(
          context,
          context.steps.find(({ key }) => key === wanted)!,
        )
      )?.ownWordsMissing;
    for (const key of ['read-facts', 'find-out', 'prove-root']) expect(await missing(key), key).toBe(false);
    for (const key of ['bootloader', 'write-root']) expect(await missing(key), key).toBe(true);
    await saveCommands('posix', { write: 'tool put {partition} {file}' }, '');
    expect(await missing('bootloader')).toBe(false);
  });

  it('is planned anew where an update turns out to wait', async () => {
    const { own, round } = await byHand();
    await sayAtStep(round, await version(round), 'as it says');
    await typeFact(own.handset, 'snapshot', 'snapshotted');
    expect((await newestFacts(own.handset)).find(({ key }) => key === 'snapshot')).toMatchObject({
      source: 'typed',
      value: 'snapshotted',
    });
    await sayAtStep(round, await version(round), 'one waits');
    const { lane, target } = (await findRound(round))!;
    expect([lane, target]).not.toEqual(['one-image-once', SEPTEMBER]);
    // it is asked once
    expect((await keys(round)).filter((key) => key === 'find-out')).toHaveLength(1);
  });
});

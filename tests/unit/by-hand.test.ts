import { afterEach, describe, expect, it } from 'vitest';
import type { RoundStepView, RoundView } from '@/contracts/round-view';
import type { ObserveExpectation } from '@/core/observe/expectation';
import type { GoalId } from '@/core/planning/context';
import type { OutcomeId } from '@/core/words/outcomes';
import { DEEDS, DONE_HERE } from '@/core/steps/deeds';
import { updateHandset } from '@/server/repositories/handset-repository';
import { listEvents } from '@/server/repositories/event-repository';
import { findImage } from '@/server/repositories/image-repository';
import { findRound, stepsOf } from '@/server/repositories/round-repository';
import { answerAtStep, closeRound, confirmChecks, commandsAtStep, showAtStep } from '@/server/rounds/by-hand';
import { proveAgainByHand } from '@/server/rounds/prove-again';
import { planStockBack, replan } from '@/server/rounds/opening';
import { itRestarted } from '@/server/rounds/over-link';
import { roundContext } from '@/server/rounds/round-context';
import { roundView } from '@/server/rounds/round-view';
import { expectationAt } from '@/server/rounds/shown';
import { benchRows } from '@/server/services/bench-service';
import { lastGood } from '@/server/services/plan-service';
import { reportSlot, slotCells } from '@/server/services/slot-service';
import { begin, here, version } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { pasteAtStep, sayAtStep } from '../fixtures/at-step';
import { codeOf, errorOf } from '../fixtures/expect-error';
import { textFor } from '../fixtures/shown-text';

/* Whole lanes walked by hand: what is said, what is shown, and what goes otherwise, at every step. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

interface Lane {
  readonly goal: GoalId;
  readonly lane: string | null;
  readonly world: LaneOptions;
  /** Where its root partition is written, and of which build. */
  readonly written: readonly ['a' | 'b', string];
  readonly root: string;
}
const LANES: readonly Lane[] = [
  { goal: 'first root', lane: 'one-image-once', world: {}, written: ['a', SEPTEMBER], root: 'proven' },
  {
    goal: 'monthly update',
    lane: 'update-in-place-other-slot',
    world: { rooted: ['a'], offer: OCTOBER },
    written: ['b', OCTOBER],
    root: 'proven',
  },
  {
    goal: 'monthly update',
    lane: 'whole-build-patched',
    world: { rooted: ['a'] },
    written: ['a', OCTOBER],
    root: 'proven',
  },
  {
    goal: 'return to stock',
    lane: null,
    world: { rooted: ['a'] },
    written: ['a', SEPTEMBER],
    root: 'stock',
  },
];

async function handRound({ goal, lane, world: options }: Lane) {
  const own = await laneWorld(options);
  world = own;
  if (options.rooted) await own.keepPatched(SEPTEMBER);
  if (goal === 'monthly update') await own.keepPatched(OCTOBER);
  await updateHandset(own.handset, { link: 'hand', profile: null });
  return { own, round: await begin(own, goal, lane === null ? {} : { lane }) };
}

interface Now {
  readonly view: RoundView;
  readonly step: RoundStepView;
  readonly expectation: ObserveExpectation | null;
}
async function now(round: string): Promise<Now | null> {
  const view = await roundView(round);
  const step = view.current === null ? null : view.steps[view.current]!;
  if (!step) return null;
  const context = await roundContext(round);
  const row = context.steps.find(({ id }) => id === step.id)!;
  return { view, step, expectation: await expectationAt(context, row) };
}

/** Answers the step to do now as it should be answered, shown where it can be. */
async function right(round: string, { step, expectation }: Now): Promise<void> {
  const text = expectation && textFor(expectation);
  if (text === null) await sayAtStep(round, await version(round), 'as it says');
  else await pasteAtStep(round, await version(round), text);
  expect((await stepsOf([round])).find(({ id }) => id === step.id)!.state, step.key).toBe('done');
}

/** Walks on; `before` is told of each step that a person answers, before it is answered right. */
async function walkByHand(
  own: LaneWorld,
  round: string,
  {
    until,
    before = () => Promise.resolve(false),
  }: { until?: string; before?: (at: Now) => Promise<boolean> } = {},
): Promise<string[]> {
  const walked: string[] = [];
  for (;;) {
    const at = await now(round);
    // private values stand in no text of a round, whatever was said and pasted at it
    expect(JSON.stringify(at?.view ?? '')).not.toMatch(PRIVATE);
    if (!at || at.step.key === until || at.step.key === 'close') return walked;
    walked.push(at.step.key);
    if (walked.length > 60) throw new Error(`it goes round: ${walked.join(' ')}`);
    if (await here(own, round, at.step)) continue;
    const overrides = at.view.checks
      .filter(({ verdict, overridable }) => verdict !== 'holds' && overridable)
      .map(({ id: checkId }) => ({ checkId, reason: 'looked at by hand' }));
    if (at.step.key === 'check' || overrides.length > 0)
      await confirmChecks(round, await version(round), overrides);
    if (at.step.key === 'check') continue;
    // what was passed over is not answered once more
    if (!(await before(at))) await right(round, at);
  }
}

const PRIVATE = /SERIAL42|OTHER99/;

const stateOf = async (round: string, id: string) =>
  (await stepsOf([round])).find((one) => one.id === id)!.state;
const cellOf = async ({ handset }: LaneWorld, slot: string) =>
  (await slotCells(handset)).find((cell) => cell.slot === slot && cell.partition === 'init_boot');

const imageOn = async (own: LaneWorld, slot: string) => findImage((await cellOf(own, slot))!.sha256!);

describe.each(LANES)('$goal ($lane) by hand', (lane) => {
  it('shown at every step, reaches its goal, and what was written stands on its own slot', async () => {
    const { own, round } = await handRound(lane);
    await walkByHand(own, round);
    const { signOff } = await roundView(round);
    await closeRound(round, await version(round));
    expect(JSON.stringify(await listEvents({}))).not.toMatch(PRIVATE);
    expect(signOff.filter(({ decides, verdict }) => decides && verdict !== 'holds')).toEqual([]);
    expect(await findRound(round)).toMatchObject({ state: 'closed', reached: 'yes' });
    expect((await benchRows())[0]!.root).toBe(lane.root);
    const [slot, build] = lane.written;
    expect(await imageOn(own, slot)).toMatchObject({
      fingerprint: build,
      role: lane.root === 'proven' ? 'patched' : 'stock',
    });
    expect(await lastGood(own.handset, lane.goal)).toMatchObject({ id: round });
  });

  it('otherwise at each step, ends none as done; what it may have written is in doubt on the slot of the plan', async () => {
    const { own, round } = await handRound(lane);
    const tried: string[] = [];
    await walkByHand(own, round, {
      before: async ({ step, view }) => {
        tried.push(step.key);
        expect(view.hand!.outcomes.map(({ id }) => id)).toContain('own-words');
        await answerAtStep(round, await version(round), {
          answer: { how: 'otherwise', outcome: 'own-words', note: 'it hummed' },
          text: '',
        });
        expect(await stateOf(round, step.id), step.key).toBe('failed');
        const { writes } = DEEDS[step.key];
        if (writes?.what === 'root')
          expect(await cellOf(own, writes.slot === 'the other' ? 'b' : 'a'), step.key).toMatchObject({
            verdict: 'unknown',
          });
        return false;
      },
    });
    expect(tried.length).toBeGreaterThan(3);
    await closeRound(round, await version(round));
    expect(await findRound(round)).toMatchObject({ reached: 'yes' });
  });

  it('not told at each step that can be passed over, closes as not reached only, and is no model', async () => {
    const { own, round } = await handRound(lane);
    await walkByHand(own, round, {
      before: async ({ step, view }) => {
        await answerAtStep(round, await version(round), {
          answer: { how: 'cannot-tell', note: '' },
          text: '',
        });
        const passed = (await stateOf(round, step.id)) === 'done';
        expect(passed, step.key).toBe(!view.hand!.lasting);
        return passed;
      },
    });
    expect(await codeOf(async () => closeRound(round, await version(round)))).toBe('refused');
    await closeRound(round, await version(round), { notReached: true, carryOver: [] });
    expect(await findRound(round)).toMatchObject({ state: 'closed', reached: 'no' });
    expect(await lastGood(own.handset, lane.goal)).toBeNull();
  });

  it('another handset’s, slot’s or build’s text is never taken as done at any step', async () => {
    const { own, round } = await handRound(lane);
    let wrong = 0;
    await walkByHand(own, round, {
      before: async ({ step, expectation }) => {
        for (const change of WRONG) {
          const text = expectation && textFor(change(expectation));
          if (text === null || text === textFor(expectation!)) continue;
          const found = await showAtStep(round, text);
          const error = await errorOf(async () => pasteAtStep(round, await version(round), text));
          expect(error.code, `${step.key}: ${text}`).toMatch(/refused|bad-field/);
          if (found) expect(found.verdict, step.key).not.toBe('met');
          expect(await stateOf(round, step.id)).not.toBe('done');
          wrong += 1;
        }
        return false;
      },
    });
    expect(wrong).toBeGreaterThan(2);
    await closeRound(round, await version(round));
  });
});

const WRONG: readonly ((expectation: ObserveExpectation) => ObserveExpectation)[] = [
  (one) => ({ ...one, serial: 'OTHER99' }),
  (one) =>
    one.slot === undefined || one.step === 'prove-root'
      ? one
      : { ...one, slot: one.slot === 'a' ? 'b' : 'a' },
  (one) =>
    one.parts
      ? {
          ...one,
          parts: one.parts.map((part) => ({ ...part, slots: part.slots.map((slot) => slot && 'b') })),
        }
      : one,
  (one) => (one.parts ? { ...one, parts: [...one.parts, { ...one.parts[0]!, partition: 'persist' }] } : one),
  (one) => (one.parts ? { ...one, parts: one.parts.map((part) => ({ ...part, size: 7 * 1024 })) } : one),
  (one) => (one.step === 'write' && one.partition ? { ...one, partition: 'dtbo' } : one),
  (one) =>
    one.build && one.step === 'start'
      ? { ...one, build: { fingerprint: SEPTEMBER.replace('260905', '250105'), buildId: 'HC1.250105.007' } }
      : one,
  (one) =>
    one.image && one.step === 'prove-root'
      ? { ...one, image: { ...one.image, sha256: 'e'.repeat(64) } }
      : one,
];

describe('a handset that does not start after the write', () => {
  const FIRST = LANES[0]!;
  const saidToLoop = async (round: string, outcome: OutcomeId = 'loops') =>
    answerAtStep(round, await version(round), { answer: { how: 'otherwise', outcome, note: '' }, text: '' });

  it('goes back to stock by hand, from the state that it is in, and the round is not reached', async () => {
    const { own, round } = await handRound(FIRST);
    await walkByHand(own, round, { until: 'start' });
    await saidToLoop(round);
    expect((await benchRows())[0]!.root).toBe('broken');
    await planStockBack(round, await version(round));
    const at = (await now(round))!;
    // it runs nothing, so nobody asks for what a running system prints
    expect(at.step.key).toBe('bootloader');
    expect(at.step.keyCard).not.toBeNull();
    const walked = await walkByHand(own, round);
    expect(walked).toContain('write-stock');
    expect(walked).not.toContain('read-facts');
    expect((await imageOn(own, 'a'))!.role).toBe('stock');
    expect(await codeOf(async () => closeRound(round, await version(round)))).toBe('refused');
    await closeRound(round, await version(round), { notReached: true, carryOver: [] });
    expect((await benchRows())[0]!.root).not.toMatch(/proven|broken/);
  });

  it('planned anew is made to start first, and the file, command and hash of it stand there', async () => {
    const { own, round } = await handRound(FIRST);
    await walkByHand(own, round, { until: 'start' });
    await saidToLoop(round, 'stays-at-logo');
    await replan(round, await version(round));
    await walkByHand(own, round, { until: 'write-stock' });
    const { view } = (await now(round))!;
    const { file, commands } = view.hand!;
    expect(file!.name).toContain('init_boot');
    expect(file!.hashCommand).toContain(file!.name);
    expect(commands.some(({ command }) => command.includes(file!.name))).toBe(true);
    expect(JSON.stringify(view)).not.toContain('SERIAL42');
    expect((await findRound(round))!.kind).toBe('first root');
  });
});

const GRANTED = 'uid=2000(shell) gid=2000(shell)\nuid=0(root) gid=0(root)';

describe('root by hand', () => {
  const rootClaim = async (round: string) =>
    (await roundView(round)).signOff.find(({ id }) => id === 'root-works')!;
  async function toProof() {
    const { own, round } = await handRound(LANES[0]!);
    await walkByHand(own, round, { until: 'prove-root' });
    const patched = (await imageOn(own, 'a'))!.sha256;
    return { own, round, patched };
  }
  it('that was only granted is proved by a read-back that was kept in another room, after the write', async () => {
    const { own, round, patched } = await toProof();
    await pasteAtStep(round, await version(round), GRANTED);
    expect((await rootClaim(round)).missing).not.toBeNull();
    const keep = (sha256: string) =>
      reportSlot({
        handsetId: own.handset,
        slot: 'a',
        partition: 'init_boot',
        sha256,
        certainty: 'read',
        reason: 'test',
      });
    await keep('e'.repeat(64));
    expect((await rootClaim(round)).missing).not.toBeNull();
    await keep(patched);
    expect((await rootClaim(round)).missing).toBeNull();
    await walkByHand(own, round);
    await closeRound(round, await version(round));
    expect((await benchRows())[0]!.root).toBe('proven');
  });
  it('is proved once more after a restart by what shows it, and by nothing else', async () => {
    const { own, round, patched } = await toProof();
    expect((await roundView(round)).proveAgain).toBeNull();
    await walkByHand(own, round);
    const { proveAgain } = await roundView(round);
    expect(proveAgain!.commands.some(({ command }) => command.includes('init_boot_a'))).toBe(true);
    const show = async (text: string) => proveAgainByHand(round, await version(round), text);
    for (const text of ['it is there', 'uid=2000(shell)', `uid=0(root)\n${'e'.repeat(64)}  -`])
      expect(await codeOf(() => show(text)), text).toBe('refused');
    await show(`${GRANTED}\n${patched}  -`);
    const lasts = (await roundView(round)).signOff.find(({ id }) => id === 'root-lasts')!;
    expect(lasts.evidence.filter(({ what }) => what.startsWith('after one more restart'))).toHaveLength(2);
    // once is enough
    expect((await roundView(round)).proveAgain).toBeNull();
    expect(await codeOf(() => show('uid=0(root)'))).toBe('conflict');
    await closeRound(round, await version(round));
    expect(await findRound(round)).toMatchObject({ reached: 'yes' });
  });
  it('in a shell that was never another user is weak', async () => {
    const { round, patched } = await toProof();
    await pasteAtStep(round, await version(round), `uid=0(root) gid=0(root)\n${patched}  -`);
    expect(await rootClaim(round)).toMatchObject({ verdict: 'holds', missing: expect.any(String) as string });
  });
  it('read out twice is still one kind, and proves nothing without a grant', async () => {
    const { own, round, patched } = await toProof();
    await answerAtStep(round, await version(round), {
      answer: { how: 'as-described', note: '' },
      text: `${patched}  -`,
    });
    await reportSlot({
      handsetId: own.handset,
      slot: 'a',
      partition: 'init_boot',
      sha256: patched,
      certainty: 'read',
      reason: 'test',
    });
    expect((await rootClaim(round)).missing).not.toBeNull();
  });
});

describe('patched on the handset by hand', () => {
  it('is done when the image is in the vault, and by nobody’s word', async () => {
    const own = await laneWorld();
    world = own;
    await updateHandset(own.handset, { link: 'hand', profile: null });
    const round = await begin(own, 'first root', { limits: { patchThere: true } });
    await walkByHand(own, round, { until: 'patch-there' });
    const { step } = (await now(round))!;
    expect(step.key).toBe('patch-there');
    expect(await codeOf(async () => sayAtStep(round, await version(round), 'it made one'))).toBe('refused');
    expect(await stateOf(round, step.id)).not.toBe('done');
    await own.keepPatched(SEPTEMBER);
    expect(await stateOf(round, step.id)).toBe('done');
  });
});

describe('after trouble by hand', () => {
  it('what runs is found out first: planned anew, and after a restart too early', async () => {
    const { own, round } = await handRound(LANES[1]!);
    await walkByHand(own, round, { until: 'patch-other-slot' });
    await itRestarted(round, await version(round));
    expect((await now(round))!.step.key).toBe('read-facts');
    expect((await benchRows())[0]!.root).toBe('unknown');
    await walkByHand(own, round, { until: 'check' });
    await replan(round, await version(round));
    expect((await now(round))!.step.key).toBe('read-facts');
  });
  it('before a write its file and command are at hand in the mode that it is gone into for', async () => {
    const { own, round } = await handRound(LANES[0]!);
    await walkByHand(own, round, { until: 'bootloader' });
    const { ahead, commands } = (await now(round))!.view.hand!;
    expect(ahead!.file!.name).toContain('init_boot');
    expect(ahead!.commands.some(({ command }) => command.includes(ahead!.file!.name))).toBe(true);
    // what shows it there is asked for in the person's own words
    expect(commands.map(({ command }) => command)).toEqual(['eterno variables --to HOST:PORT']);
    await walkByHand(own, round, { until: 'start' });
    expect((await now(round))!.view.hand!.ahead).toBeNull();
  });
  it('steps already known are not asked for again, and the serial is shown only to who asks', async () => {
    const { own, round } = await handRound(LANES[0]!);
    expect((await now(round))!.view.hand!.readAt).not.toBeNull();
    await answerAtStep(round, await version(round), {
      answer: { how: 'as-described', note: '' },
      text: '',
    });
    await walkByHand(own, round, { until: 'prove-root' });
    const commands = await commandsAtStep(round);
    expect(commands.map(({ command }) => command).join()).toContain('sha256sum');
    for (const key of DONE_HERE) expect(DEEDS[key].shown ?? null, key).toBeNull();
  });
});

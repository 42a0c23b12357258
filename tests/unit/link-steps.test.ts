import { afterEach, describe, expect, it } from 'vitest';
import type { JobView } from '@/contracts/job-view';
import type { EternoError } from '@/core/errors';
import { updateHandset } from '@/server/repositories/handset-repository';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { knownFacts } from '@/server/services/fact-service';
import { cancelJob, listJobs, startJob } from '@/server/services/jobs';
import { readFactsFromLink } from '@/server/services/link-facts';
import { refuseOffer, runStep, saidToLoop, sendToStepMode } from '@/server/rounds/over-link';
import { wiped } from '@/core/handset/operated';
import { newestMessageId, subscribe } from '@/server/services/message-bus';
import { readBackOverLink } from '@/server/services/read-back-service';
import { closeRound, confirmChecks } from '@/server/rounds/by-hand';
import { replan, startRound } from '@/server/rounds/opening';
import { roundView } from '@/server/rounds/round-view';
import { slotCells } from '@/server/services/slot-service';
import { forceImage, setBattery, setCable, standInView } from '@/server/services/stand-in-service';
import { ended } from '../fixtures/ended-job';
import { codeOf, errorOf } from '../fixtures/expect-error';
import type { LaneWorld } from '../fixtures/lane-world';
import { AUGUST, LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import {
  allowRoot,
  begin,
  hold,
  press,
  rest,
  see,
  seen,
  stepNow,
  version,
  walk,
  laneLink,
  touch,
} from '../fixtures/lane-walk';
import { DUMP, sha256 } from '../fixtures/server-world';

/*
 * What is particular to steps over the link: identity, the last look, what a failure leaves behind, two
 * writers, jobs.
 */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
async function toWrite(more: Parameters<typeof laneWorld>[0] = {}): Promise<string> {
  world = await laneWorld(more);
  const round = await begin(world, 'first root');
  await walk(world, round, { until: 'write-root' });
  return round;
}
const run = async (round: string) => ended(await runStep(round, await version(round)));
const cell = async (slot: string) =>
  (await slotCells(world!.handset)).find((one) => one.partition === 'init_boot' && one.slot === slot);

describe('the root app after the first start', () => {
  const app = { versionCode: 1, channel: 'stable', hidden: true, pinned: false } as const;
  const atApp = async (change: Partial<Record<keyof typeof app, unknown>> = {}) => {
    const round = await toWrite({ state: { rootAppIs: { ...app, ...change } as typeof app } });
    await walk(world!, round, { until: 'finish-root-app' });
    await seen('a root app to finish', ({ state }) => state.rootApp === 'unfinished');
    await touch('finish root app');
    return round;
  };
  const saying = async (round: string) =>
    (await roundView(round)).steps
      .find(({ key }) => key === 'finish-root-app')!
      .evidence.map(({ what }) => what);

  it('is not taken while it is hidden, and is once it was shown and set to stay as it is', async () => {
    const round = await atApp({ versionCode: 720 });
    expect(await run(round)).toMatchObject({ state: 'failed', error: { code: 'handset-refused' } });
    expect((await knownFacts(world!.handset)).value('rootAppHidden')).toBe('yes');
    await touch('show root app');
    expect(await run(round)).toMatchObject({ state: 'done' });
    expect((await saying(round)).join(' ')).toMatch(/may offer an update of itself/);
    const { value } = await knownFacts(world!.handset);
    expect(
      ['rootAppVersion', 'rootAppChannel', 'rootAppHidden', 'rootAppPinned'].map((key) => value(key)),
    ).toEqual(['720', 'stable', 'no', 'no']);
  });
  it('takes its own update from its menu, which shows as another channel and a newer version', async () => {
    const round = await atApp({ hidden: false, versionCode: 720 });
    await touch('update root app');
    expect(await run(round)).toMatchObject({ state: 'done' });
    expect((await knownFacts(world!.handset)).value('rootAppChannel')).toBe('preview');
    await touch('pin root app');
    await expect(touch('update root app')).rejects.toThrow();
  });
  it('goes with the data, and comes with the kit where none was there', async () => {
    const round = await toWrite();
    await walk(world!, round, { until: 'look-around' });
    expect((await see()).state.rootAppIs).toMatchObject({ channel: 'stable', hidden: false });
    expect(wiped((await see()).state)).not.toHaveProperty('rootAppIs');
  });
});

describe('a round over the link', () => {
  it('ends proved, with strong evidence for every claim but what only the person sees', async () => {
    const round = await toWrite();
    await walk(world!, round);
    const { signOff, state } = await roundView(round);
    expect(state).toBe('closed');
    // nothing is counted on a round that is over
    expect(await codeOf(async () => refuseOffer(round, await version(round)))).toBe('conflict');
    const strong = signOff.filter(
      (claim) => !['Data is there', 'Calls and mobile data', 'Payments and work apps'].includes(claim.claim),
    );
    expect(strong.flatMap((claim) => claim.evidence).every((item) => item.strength === 'strong')).toBe(true);
    expect(signOff.find((claim) => claim.claim === 'Root works')!.missing).toBeNull();
    expect((await benchRows())[0]!.root).toBe('proven');
    expect(await cell('a')).toMatchObject({ verdict: 'read' });
  });

  it('reads facts from the running system, and only from this handset', async () => {
    world = await laneWorld();
    const other = await addHandset('Another', DUMP.replace('SERIAL42', 'OTHER99'));
    await updateHandset(other, { link: 'stand-in', profile: LANE_PROFILE });
    const round = await startRound({
      handsetId: other,
      goal: 'first root',
      target: null,
      lane: null,
      limits: { computer: true, wipeAllowed: false, keepFuse: false },
    });
    expect(await run(round)).toMatchObject({ state: 'failed', error: { code: 'refused' } });
    expect(await stepNow(round)).toMatchObject({ key: 'read-facts', state: 'failed' });
  });

  it('is refused for a handset that is not linked', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await updateHandset(world.handset, { link: 'hand' });
    expect(await codeOf(async () => runStep(round, await version(round)))).toBe('refused');
    expect(await codeOf(() => readFactsFromLink(world!.handset))).toBe('refused');
    expect(await codeOf(() => readBackOverLink(world!.handset))).toBe('refused');
  });

  it('says so when the handset is not in its bootloader yet, and knows no step that is not one of the link', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await walk(world, round, { until: 'protect' });
    expect(await codeOf(async () => runStep(round, await version(round)))).toBe('conflict');
    await walk(world, round, { until: 'bootloader' });
    const job = await run(round);
    expect(job.error!.message).toContain('not in its bootloader');
    await sendToStepMode(round, await version(round));
    await seen('the bootloader', (view) => view.state.mode === 'bootloader');
    expect(await run(round)).toMatchObject({ state: 'done' });
  });

  it('reads each partition back under its slot, and without one where the handset has one slot', async () => {
    world = await laneWorld({ rooted: ['a'] });
    const both = ended(await readBackOverLink(world.handset));
    await allowRoot();
    expect(await both).toMatchObject({ state: 'done' });
    expect(await cell('a')).toMatchObject({ verdict: 'read' });
    expect(await cell('b')).toMatchObject({ verdict: 'read' });
    await world.end();
    world = await laneWorld({
      profile: { slotCount: 1, rootPartition: 'boot' },
      builds: { a: SEPTEMBER, b: SEPTEMBER },
      rooted: ['a'],
      facts: { slotCount: '1' },
    });
    const one = ended(await readBackOverLink(world.handset));
    await allowRoot();
    expect(await one).toMatchObject({ state: 'done' });
    expect([...new Set((await slotCells(world.handset)).map(({ slot }) => slot))]).toEqual(['-']);
  });

  it('takes the word that it loops at no step but a start', async () => {
    const round = await toWrite();
    expect(await codeOf(() => saidToLoop(round))).toBe('conflict');
    world!.clock.stop();
    const job = ended(await runStep(round, await version(round)));
    await seen('it writes', ({ screen }) => screen.kind === 'menu' && screen.busy !== null);
    expect(await codeOf(() => saidToLoop(round))).toBe('conflict');
    world!.clock.go();
    expect(await job).toMatchObject({ state: 'done' });
  });

  it('reads facts in whatever mode answers, and says so when none does', async () => {
    world = await laneWorld();
    expect(await readFactsFromLink(world.handset)).toBe('system');
    await hold(['power'], 'off');
    expect(await codeOf(() => readFactsFromLink(world!.handset))).toBe('link-lost');
    await hold(['down', 'power'], 'bootloader');
    expect(await readFactsFromLink(world.handset)).toBe('bootloader');
    expect(
      (await knownFacts(world.handset)).resolved
        .find((fact) => fact.key === 'currentSlot')
        ?.reports.map(({ witness }) => witness)
        .sort(),
    ).toEqual(['bootloader', 'system']);
    expect(await standInView('nobody')).toBeNull();
  });
});

describe('the next step', () => {
  it('may begin the moment it is shown', async () => {
    world = await laneWorld({ rooted: ['a'], offer: OCTOBER });
    const round = await begin(world, 'monthly update', {
      lane: 'update-in-place-other-slot',
      target: OCTOBER,
    });
    const first = await runStep(round, await version(round));
    const over = ended(first);
    while ((await stepNow(round))!.key === 'read-facts') await rest();
    // what follows from the first may still change the round; nothing may hold the handset any more
    let second: JobView | null = null;
    while (second === null)
      second = await runStep(round, await version(round)).catch((thrown: EternoError) => {
        expect(thrown.message).toContain('changed somewhere else');
        return null;
      });
    await allowRoot();
    expect((await over).state).toBe('done');
    // the second asks for root too, and finds an image that no vault has proved
    expect(await ended(second)).toMatchObject({ state: 'failed', error: { code: 'bad-hash' } });
  });
});

describe('the last look before the first byte', () => {
  it('refuses when another slot is active than the one that was checked', async () => {
    const round = await toWrite();
    await laneLink().setActive('b');
    const job = await run(round);
    expect(job).toMatchObject({ state: 'failed', error: { code: 'refused' } });
    expect(job.error!.message).toContain('Slot b is active now');
    expect((await stepNow(round))!.evidence[0]!.what).toContain('nothing was written');
    expect(await cell('a')).toBeUndefined();
  });

  it('refuses a battery that is too low, at the checks and at the write', async () => {
    const round = await toWrite();
    await setBattery(LANE_PROFILE, 20);
    expect((await errorOf(async () => runStep(round, await version(round)))).message).toContain('battery');
    await world!.end();
    world = await laneWorld({ state: { batteryPercent: 20 } });
    const second = await begin(world, 'first root');
    await walk(world, second, { until: 'check' });
    expect(
      await codeOf(async () =>
        confirmChecks(second, await version(second), [{ checkId: 'battery', reason: 'it will do' }]),
      ),
    ).toBe('refused');
    expect((await roundView(second)).checks.find((check) => check.id === 'battery')).toMatchObject({
      verdict: 'fails',
      overridable: false,
    });
  });

  it('runs one write at a time', async () => {
    const round = await toWrite();
    const first = await runStep(round, await version(round));
    expect(await codeOf(async () => runStep(round, await version(round)))).toBe('conflict');
    expect(await codeOf(async () => refuseOffer(round, 0))).toBe('conflict');
    expect(await ended(first)).toMatchObject({ state: 'done' });
  });
});

describe('when it goes wrong', () => {
  it('a cable lost in the write leaves the step open and the partition unknown, and writing again mends it', async () => {
    const round = await toWrite();
    world!.clock.stop();
    const job = ended(await runStep(round, await version(round)));
    await seen('it writes', ({ screen }) => screen.kind === 'menu' && screen.busy !== null);
    await setCable(LANE_PROFILE, false);
    world!.clock.go();
    expect(await job).toMatchObject({ state: 'failed', error: { code: 'link-lost' } });
    expect(await stepNow(round)).toMatchObject({ key: 'write-root', state: 'failed' });
    expect(await cell('a')).toMatchObject({ verdict: 'unknown', sha256: null });
    await setCable(LANE_PROFILE, true);
    expect(await run(round)).toMatchObject({ state: 'done' });
    expect((await cell('a'))!.sha256).not.toBeNull();
  });

  it('a start that fell back to the other slot is not taken for success', async () => {
    const round = await toWrite({ builds: { a: SEPTEMBER, b: SEPTEMBER } });
    await run(round);
    await laneLink().setActive('a');
    await forceImage(LANE_PROFILE, await world!.keepPatched(AUGUST), 'init_boot_a');
    const start = await run(round);
    expect(start.error).toMatchObject({ code: 'handset-refused' });
    expect(start.error!.message).toContain('slot');
    expect((await stepNow(round))!.key).toBe('start');
  });

  it('root that is denied is not proved, can be asked for again, and another image read back proves nothing', async () => {
    const round = await toWrite();
    await walk(world!, round, { until: 'prove-root' });
    const denied = ended(await runStep(round, await version(round)));
    await seen('the prompt', (view) => view.state.rootRequest === 'asked');
    await press('down');
    expect(await denied).toMatchObject({ state: 'failed', error: { code: 'handset-refused' } });
    const stopped = await runStep(round, await version(round));
    await seen('the prompt', (view) => view.state.rootRequest === 'asked');
    cancelJob(stopped.id);
    expect(await ended(stopped)).toMatchObject({ state: 'cancelled' });
    await forceImage(LANE_PROFILE, await world!.keepPatched(AUGUST), 'init_boot_a');
    const other = ended(await runStep(round, await version(round)));
    await allowRoot();
    expect(await other).toMatchObject({ state: 'failed', error: { code: 'bad-hash' } });
    expect((await benchRows())[0]!.root).not.toBe('proven');
    expect(await codeOf(async () => closeRound(round, await version(round)))).toBe('conflict');
  });

  it('can be planned anew from where it stands, and keeps what is done', async () => {
    const round = await toWrite();
    await laneLink().restart('system');
    await seen('the system', (view) => view.state.mode === 'system');
    const done = (await roundView(round)).steps
      .filter((step) => step.state === 'done')
      .map((step) => step.key);
    await replan(round, await version(round));
    const view = await roundView(round);
    expect(view.steps.filter((step) => step.state === 'done').map((step) => step.key)).toEqual(
      expect.arrayContaining(done),
    );
    await walk(world!, round);
    expect((await roundView(round)).state).toBe('closed');
    expect((await errorOf(async () => replan(round, 0))).code).toMatch(/conflict|refused/);
  });
});

describe('read-back over the link', () => {
  it('asks for root, reads every partition of both slots, keeps what is new, and makes the map a read one', async () => {
    world = await laneWorld({ rooted: ['a'] });
    const end = ended(await readBackOverLink(world.handset));
    await allowRoot();
    expect(await end).toMatchObject({ state: 'done', error: null });
    const stock = (await world.imagesOf(AUGUST)).get('init_boot')!;
    expect(await cell('b')).toMatchObject({ verdict: 'read', sha256: sha256(stock) });
    expect((await see()).state.builds.a).toBe(SEPTEMBER);
  });
  it('without root reads nothing', async () => {
    world = await laneWorld();
    expect(await ended(await readBackOverLink(world.handset))).toMatchObject({
      state: 'failed',
      error: { code: 'handset-refused' },
    });
    expect(await slotCells(world.handset)).toEqual([]);
  });
});

describe('jobs', () => {
  it('tell their progress and their end, and are remembered for a while', async () => {
    world = await laneWorld();
    const since = newestMessageId();
    const job = await startJob({ kind: 'k', title: 'A job', roundId: null }, async ({ onProgress }) => {
      onProgress({ phase: 'half', doneBytes: 5, totalBytes: 10 });
      // right after it in the same phase: only the end of it is told
      onProgress({ phase: 'half', doneBytes: 6, totalBytes: 10 });
      onProgress({ phase: 'half', doneBytes: 10, totalBytes: 10 });
      onProgress({ phase: 'end', doneBytes: 10, totalBytes: 10 });
    });
    await ended(job);
    const phases: string[] = [];
    subscribe(
      since,
      ({ message }) => message.type === 'job' && phases.push(`${message.job.phase} ${message.job.state}`),
    )();
    expect(phases).toEqual(['start running', 'half running', 'half running', 'end running', 'end done']);
    expect((await listJobs()).map((one) => one.title)).toContain('A job');
    // what has ended is told for a minute
    await world.clock.pass(61_000);
    expect((await listJobs()).map((one) => one.title)).not.toContain('A job');
  });
  it('that fail keep their error as data', async () => {
    world = await laneWorld();
    const job = await startJob({ kind: 'k', title: 'Bad', roundId: null }, async () => {
      throw new TypeError('surprise');
    });
    expect(await ended(job)).toMatchObject({
      state: 'failed',
      error: { code: 'internal', message: 'surprise' },
    });
    expect(await codeOf(() => cancelJob(job.id))).toBe('not-found');
  });
});

import { afterEach, describe, expect, it } from 'vitest';
import { LOOP_COMINGS } from '@/core/link/loop-watch';
import { listEvents } from '@/server/repositories/event-repository';
import { findRound } from '@/server/repositories/round-repository';
import { until } from '@/server/rounds/executors/running';
import { itRestarted, runStep } from '@/server/rounds/over-link';
import { proveAgainOverLink } from '@/server/rounds/prove-again';
import { roundView } from '@/server/rounds/round-view';
import { sightOf } from '@/server/rounds/sight';
import { benchRows } from '@/server/services/bench-service';
import { factViews, knownFacts } from '@/server/services/fact-service';
import { forceImage } from '@/server/services/stand-in-service';
import { codeOf } from '../fixtures/expect-error';
import { ended } from '../fixtures/ended-job';
import { allowRoot, begin, laneLink, rest, seen, stepNow, version, walk } from '../fixtures/lane-walk';
import type { LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { sha256 } from '../fixtures/server-world';

/* What the link sees by itself: one that starts over and over, and a start that nobody asked for. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

const isUp = (view: Parameters<Parameters<typeof seen>[1]>[0]) => view.state.mode === 'system';

async function firstRoot() {
  world = await laneWorld({});
  await world.keepPatched(SEPTEMBER);
  await world.keepImagesOf(OCTOBER, ['boot']);
  return { own: world, round: await begin(world, 'first root') };
}

/** Another build’s kernel on the slot: no start gets through. */
const breakIt = async ({ imagesOf }: LaneWorld) =>
  forceImage(LANE_PROFILE, sha256((await imagesOf(OCTOBER)).get('boot')!), 'boot_a');

const comings = async () => (await laneLink().comings())!;

describe('waiting for something on the handset', () => {
  it('looks often, and asks less often whether it starts over', async () => {
    let [looks, asked] = [0, 0];
    const link = {
      comings: () => {
        asked += 1;
        return Promise.resolve(null);
      },
      listed: () => Promise.resolve(null),
    };
    const watch = { signal: new AbortController().signal, onProgress: () => undefined };
    const look = () => {
      looks += 1;
      return Promise.resolve(looks === 8 ? 'there' : null);
    };
    expect(await until({ link, watch }, 'wait', 60_000, look, 1)).toBe('there');
    expect(asked).toBe(1);
    const never = until({ link, watch }, 'wait', 5, () => Promise.resolve(null), 1);
    expect(await codeOf(() => never)).toBe('handset-refused');
  });
});

describe('over the link', () => {
  it('a start that loops is seen from its comings, not after the time that a start may take', async () => {
    const { own, round } = await firstRoot();
    await walk(own, round, { until: 'start' });
    await breakIt(own);
    const before = await comings();
    const { error } = await ended(await runStep(round, await version(round)));
    expect(error).toMatchObject({ code: 'handset-refused', details: { saw: 'looping' } });
    // in the nine minutes that a start may take it comes about 180 times
    expect((await comings()) - before).toBeLessThan(LOOP_COMINGS * 10);
    expect(await stepNow(round)).toMatchObject({ key: 'start', state: 'failed' });
    expect((await benchRows())[0]!.root).toBe('broken');
  });

  it('one that loops between two steps is seen too, and the way on begins with a repair', async () => {
    const { own, round } = await firstRoot();
    await walk(own, round, { until: 'look-around' });
    expect(await sightOf(round)).toBe('fine');
    await breakIt(own);
    await laneLink().restart('system');
    await seen('the loop', ({ state }) => state.mode === 'looping');
    for (let i = 0; (await sightOf(round)) !== 'loops'; i += 1) {
      expect(i).toBeLessThan(5000);
      await rest();
    }
    await itRestarted(round, await version(round));
    expect((await benchRows())[0]!.root).toBe('broken');
    expect((await roundView(round)).steps.find(({ state }) => state !== 'done')!.key).not.toBe('look-around');
    // it is known: it is not said again
    expect(await sightOf(round)).toBe('fine');
  });

  it('a restart that no step asked for is seen, whether or not anything else changed', async () => {
    const { own, round } = await firstRoot();
    await walk(own, round, { until: 'look-around' });
    expect(await sightOf(round)).toBe('fine');
    await laneLink().restart('system');
    await seen('the system', isUp);
    expect(await sightOf(round)).toBe('restarted');
    await itRestarted(round, await version(round));
    expect(await sightOf(round)).toBe('fine');
    expect((await benchRows())[0]!.root).toBe('unproven');
    // nothing held it back there: it is no slip
    expect(await listEvents({ kind: 'slip' })).toEqual([]);
  });

  it('right after the start that a step asked for too', async () => {
    const { own, round } = await firstRoot();
    await walk(own, round, { until: 'prove-root' });
    expect(await sightOf(round)).toBe('fine');
    await laneLink().restart('system');
    await seen('the system', isUp);
    expect(await sightOf(round)).toBe('restarted');
  });

  it('and none that a step is about, or that is read first', async () => {
    const { own, round } = await firstRoot();
    await laneLink().restart('system');
    await seen('the system', isUp);
    expect((await stepNow(round))!.key).toBe('read-facts');
    expect(await sightOf(round)).toBe('fine');
    await walk(own, round, { until: 'start' });
    await laneLink().restart('system');
    await seen('the system', isUp);
    expect(await sightOf(round)).toBe('fine');
    await walk(own, round);
    expect((await roundView(round)).state).toBe('closed');
  });

  it('root is asked for once more after one more restart, which is asked for itself', async () => {
    const { own, round } = await firstRoot();
    await walk(own, round, { until: 'close' });
    const before = (await laneLink().status()).bootId;
    const again = ended(await proveAgainOverLink(round, await version(round)));
    await allowRoot();
    expect((await again).state).toBe('done');
    expect((await laneLink().status()).bootId).not.toBe(before);
    expect(await sightOf(round)).toBe('fine');
    const { signOff, proveAgain } = await roundView(round);
    expect(proveAgain).toBeNull();
    const lasts = signOff.find(({ id }) => id === 'root-lasts')!;
    expect(lasts.evidence.filter(({ what }) => what.startsWith('after one more restart'))).toHaveLength(2);
    await walk(own, round);
    expect((await findRound(round))!.reached).toBe('yes');
  });

  it('the name of a start is kept to be compared, and shown nowhere', async () => {
    const { own, round } = await firstRoot();
    await ended(await runStep(round, await version(round)));
    const known = await knownFacts(own.handset);
    expect(known.value('bootId')).toBe((await laneLink().status()).bootId);
    expect(factViews(known).map(({ key }) => key)).not.toContain('bootId');
  });
});

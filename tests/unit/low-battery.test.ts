import { afterEach, describe, expect, it } from 'vitest';
import type { Listed } from '@/core/link/handset-link';
import { batteryEnough } from '@/server/rounds/executors/running';
import type { StepKey } from '@/core/steps/step-key';
import { insertFacts } from '@/server/repositories/handset-repository';
import { runStep } from '@/server/rounds/over-link';
import { noteBackup, noteEdge } from '@/server/services/record-service';
import { roundContext } from '@/server/rounds/round-context';
import { gatesOf } from '@/server/rounds/round-gates';
import { sideloadStep } from '@/server/rounds/sideload';
import { setBattery, setCable } from '@/server/services/stand-in-service';
import { errorOf } from '../fixtures/expect-error';
import { begin, see, stepNow, version, walk } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { AUGUST, LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';
import { lifeboat } from '../fixtures/lifeboat';
import { pieces } from '../fixtures/server-world';

/* Under 30 % nothing is written, in whatever mode the handset stands; a reading counts for an hour. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});
const SLATE = {
  slotCount: 1,
  rootPartition: 'boot',
  hasUserspace: false,
  hasDownload: true,
  recoveryHome: 'recovery',
} as const;
const idOf = (fingerprint: string) => fingerprint.split('/')[3]!;

interface Case {
  readonly options: LaneOptions;
  readonly begin: (own: LaneWorld) => Promise<string>;
}
const CASES: readonly (readonly [StepKey, Case])[] = [
  ['write-root', { options: {}, begin: (own) => begin(own, 'first root') }],
  [
    'write-set-patched',
    {
      options: { profile: SLATE, facts: { downloadMode: 'true' } },
      begin: (own) => begin(own, 'monthly update', { lane: 'firmware-set-patched', target: OCTOBER }),
    },
  ],
  [
    'root-zip',
    {
      options: { profile: SLATE },
      begin: async (own) => (await lifeboat(), begin(own, 'first root', { lane: 'through-the-recovery' })),
    },
  ],
  [
    'make-lasting',
    {
      options: { profile: { rootPartition: 'boot', startsOnce: true }, facts: { startsOnce: 'true' } },
      begin: (own) => begin(own, 'first root', { lane: 'start-once-make-lasting' }),
    },
  ],
  [
    'recovery-inside',
    {
      options: { profile: SLATE, rooted: ['a'] },
      begin: async (own) => {
        await own.keepImagesOf(SEPTEMBER, ['boot', 'recovery']);
        await own.keepPatched(SEPTEMBER);
        await lifeboat();
        return begin(own, 'keep a recovery', { lane: 'recovery-through-root' });
      },
    },
  ],
  [
    'take-update',
    {
      options: { rooted: ['a'], offer: OCTOBER },
      begin: async (own) => {
        await own.keepPatched(SEPTEMBER);
        return begin(own, 'monthly update', { lane: 'update-in-place-other-slot', target: OCTOBER });
      },
    },
  ],
];

describe('a battery that is nearly empty', () => {
  it.each(CASES)(
    'keeps %s from writing, and charged it goes on',
    async (key, { options, begin: beginRound }) => {
      world = await laneWorld(options);
      const round = await beginRound(world);
      await walk(world, round, { until: key });
      expect((await stepNow(round))!.key).toBe(key);
      const { images } = (await see()).state;
      await setBattery(LANE_PROFILE, 29);
      const error = await errorOf(async () => runStep(round, await version(round)));
      expect(error.code).toBe('refused');
      expect(error.message).toContain('battery');
      expect((await see()).state.images).toEqual(images);
      await setBattery(LANE_PROFILE, 30);
      const walked = await walk(world, round, { until: 'close' });
      expect(walked[0]).toBe(key);
      expect((await stepNow(round))!.key).not.toBe(key);
    },
  );

  it('keeps a package from being sent', async () => {
    world = await laneWorld({ profile: { sideloadsDown: [{ from: SEPTEMBER, to: AUGUST }] } });
    await noteBackup({
      handsetId: world.handset,
      what: 'files',
      place: 'off the handset',
      note: '',
      parts: null,
    });
    await noteEdge(world.handset, {
      fromBuild: idOf(SEPTEMBER),
      toBuild: idOf(AUGUST),
      allowed: 'yes',
      bootloader: null,
      note: '',
    });
    const round = await begin(world, 'downgrade', { lane: 'sideload', target: AUGUST, wipe: true });
    await walk(world, round, { until: 'sideload' });
    await setBattery(LANE_PROFILE, 18);
    const bytes = await world.packageOf(AUGUST);
    const send = async () =>
      sideloadStep(round, await version(round), {
        size: bytes.length,
        pieces: pieces(bytes),
        fileName: 'hill.zip',
      });
    expect((await errorOf(send)).message).toContain('battery');
    expect((await see()).state.builds).toEqual({ a: SEPTEMBER, b: AUGUST });
    expect((await see()).state.data.wipes).toBe(0);
  });
});

describe('a listed handset', () => {
  const listed = (batteryPercent: number | null, batteryOk: boolean | null) =>
    batteryEnough({ batteryPercent, batteryOk } as Listed);
  it.each([
    [29, null, false],
    [30, null, true],
    [30, false, true],
    [null, false, false],
    [null, null, null],
  ] as const)('with %s % and its own word %s is enough: %s', (percent, ok, enough) =>
    expect(listed(percent, ok)).toBe(enough),
  );
});

describe('a reading of the battery', () => {
  it.each([
    [59, 'holds'],
    [61, 'unknown'],
  ] as const)('of %i minutes ago: %s', async (minutes, verdict) => {
    world = await laneWorld();
    const round = await begin(world, 'first root');
    await setCable(LANE_PROFILE, false);
    const at = world.clock.now() - minutes * 60_000;
    await insertFacts(world.handset, [{ key: 'batteryOk', value: 'true' }], {
      source: 'link',
      witness: 'system',
      at,
    });
    const context = await roundContext(round);
    const step = context.steps.find(({ key }) => key === 'write-root')!;
    expect((await gatesOf(context, step)).find(({ id }) => id === 'battery')).toMatchObject({
      verdict,
      overridable: verdict === 'unknown',
    });
  });
});

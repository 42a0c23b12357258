import { afterEach, describe, expect, it } from 'vitest';
import type { CaseState } from '@/contracts/rescue-view';
import { NEW_CASE } from '@/contracts/rescue-view';
import type { HandsetState } from '@/core/handset/state';
import { adviceOf } from '@/core/rescue/advice';
import type { Seen } from '@/core/rescue/belief';
import { believe } from '@/core/rescue/belief';
import type { CheckId, RepairId, SymptomId } from '@/core/words/rescue';
import { findRound } from '@/server/repositories/round-repository';
import { keptCase, saveCase } from '@/server/services/rescue-cases';
import { beginRepair } from '@/server/rounds/rescue-round';
import { openRound } from '@/server/rounds/open-rounds';
import { rescueView } from '@/server/services/rescue-service';
import { forceImage } from '@/server/services/stand-in-service';
import { tellRoot } from '@/server/services/root-history';
import { codeOf } from '../fixtures/expect-error';
import { begin, hold, see, walk } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { sha256 } from '../fixtures/server-world';
import { AUGUST, LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';

/* Faults that hide, in real stand-ins: what is asked is answered by looking, and what is advised brings it back. */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

/** What somebody finds who looks at the handset as it is. */
function looked(check: CheckId, { mode, slots, active, snapshot, running }: HandsetState): string | null {
  const slot = slots[active];
  const answers: Partial<Record<CheckId, string>> = {
    'wait-first': mode === 'system' ? 'starts' : 'same',
    'opens-bootloader': 'yes',
    'opens-recovery': 'stock',
    'slot-lines': slot.triesLeft === 0 || !slot.bootable ? 'spent' : 'plain',
    'update-line': snapshot === 'none' ? 'none' : 'open',
    'rests-modules': mode === 'system' ? 'starts' : 'loops',
    'asks-wipe': 'no',
    'same-build': running?.build === SEPTEMBER ? 'same' : 'other',
    'root-command': running?.rooted ? 'granted' : 'none',
    'app-there': 'yes',
  };
  return answers[check] ?? null;
}

/** The first repair that is advised, and what was asked before it. */
async function advised(own: LaneWorld, symptoms: readonly SymptomId[], tried: readonly RepairId[] = []) {
  const { chosen } = await rescueView(own.handset, null);
  const { record, works, barred } = chosen!;
  let seen: Seen = { symptoms, answers: [], ruledOut: tried.flatMap((repair) => [...works[repair]]) };
  for (let i = 0; i < 20; i += 1) {
    const advice = adviceOf(
      believe(record, seen),
      works,
      seen,
      tried,
      barred.map(({ repair }) => repair),
    );
    if (advice.next !== 'check') return advice.next === 'repair' ? advice.repairs[0]!.repair : null;
    const { check } = advice.checks[0]!;
    seen = { ...seen, answers: [...seen.answers, { check, answer: looked(check, (await see()).state) }] };
  }
  throw new Error('it asks and asks');
}
const of = (symptoms: readonly SymptomId[]): CaseState => ({ ...NEW_CASE, symptoms });
const roundIn = (href: string) => /^\/rounds\/([0-9a-f-]{36})$/.exec(href)![1]!;

async function looping(options: LaneOptions, force: (own: LaneWorld) => Promise<void>): Promise<LaneWorld> {
  const own = await laneWorld(options);
  await own.keepImagesOf(SEPTEMBER);
  await force(own);
  await hold(['power'], 'off');
  await hold(['power'], 'looping');
  return own;
}

describe('a handset that loops', () => {
  it.each<[string, LaneOptions, (own: LaneWorld) => Promise<void>]>([
    [
      'with a rotted image that carries root',
      { rooted: ['a'] },
      async (own) => forceImage(LANE_PROFILE, await own.keepPatched(AUGUST), 'init_boot_a'),
    ],
    [
      'with the image of another month',
      {},
      async (own) => {
        await own.keepImagesOf(OCTOBER, ['init_boot']);
        await forceImage(
          LANE_PROFILE,
          sha256((await own.imagesOf(OCTOBER)).get('init_boot')!),
          'init_boot_a',
        );
      },
    ],
  ])('%s: the stock image is advised, and its round brings it back', async (_what, options, force) => {
    world = await looping(options, force);
    expect(await advised(world, ['loops'])).toBe('stock-image');
    const round = roundIn(await beginRepair(world.handset, 'stock-image', of(['loops'])));
    await walk(world, round);
    expect((await see()).state).toMatchObject({
      mode: 'system',
      running: { build: SEPTEMBER },
      data: { wipes: 0 },
    });
    expect(await findRound(round)).toMatchObject({ kind: 'repair', state: 'closed' });
  });
  it('with a module that does not suit it: its kit is left to rest it, and it does', async () => {
    world = await laneWorld({
      rooted: ['a'],
      profile: { badModules: [{ id: 'torch', build: SEPTEMBER }], restsModulesAfter: 3 },
      state: { modules: { on: true, ids: ['torch'] } },
      kitChange: { formatVersion: 2, afterFailedStarts: { starts: 3, does: 'rest-modules' } },
    });
    await world.keepImagesOf(SEPTEMBER);
    const repair = await advised(world, ['loops', 'logo']);
    const works = (await rescueView(world.handset, null)).chosen!.works;
    expect(works[repair!]).toContain('module');
  });
});

describe('a handset that loops without its recovery', () => {
  it('with vendor_boot of another month: after the stock image changed nothing, that one is advised', async () => {
    world = await looping({ profile: { recoveryHome: 'vendor_boot' } }, async (own) => {
      await own.keepImagesOf(OCTOBER, ['vendor_boot']);
      await forceImage(
        LANE_PROFILE,
        sha256((await own.imagesOf(OCTOBER)).get('vendor_boot')!),
        'vendor_boot_a',
      );
    });
    expect(await advised(world, ['loops', 'recovery-dead', 'touch-dead'], ['stock-image'])).toBe(
      'vendor-boot',
    );
  });
});

describe('a handset that starts', () => {
  it('without root after it was lost: root is written again', async () => {
    world = await laneWorld();
    await world.keepImagesOf(SEPTEMBER);
    await world.keepPatched(SEPTEMBER);
    await tellRoot(world.handset, null, 'lost', 'an update took it');
    expect(await advised(world, ['no-root'], ['show-app'])).toBe('root-again');
    const round = roundIn(await beginRepair(world.handset, 'root-again', of(['no-root'])));
    expect((await keptCase({ handsetId: world.handset, like: null }))?.round).toEqual({
      id: round,
      repair: 'root-again',
    });
    await walk(world, round);
    expect((await see()).state.running).toMatchObject({ rooted: true });
    expect(await findRound(round)).toMatchObject({ kind: 'root again', state: 'closed' });
  });
  it('refuses its update because of changed parts: the round puts the maker’s images back', async () => {
    world = await laneWorld({ rooted: ['a'] });
    await world.keepImagesOf(SEPTEMBER);
    const round = roundIn(await beginRepair(world.handset, 'parts-back', of(['update-refused'])));
    await walk(world, round);
    expect((await see()).state.running).toMatchObject({ build: SEPTEMBER, rooted: false });
  });
  it('is shown the ways, with their reasons, where none leads to what the repair brings back', async () => {
    world = await laneWorld();
    expect(await beginRepair(world.handset, 'recovery-again', of(['recovery-stock']))).toBe(
      `/rounds/new?handset=${world.handset}&goal=keep%20a%20recovery`,
    );
    expect(await openRound(world.handset)).toBeNull();
  });
  it('and is not to be found on this bench has no round', async () => {
    world = await laneWorld();
    expect(
      await codeOf(() => beginRepair('0b5a3d52-6f0e-4c52-9b57-1f6d2f1affff', 'stock-image', of(['loops']))),
    ).toBe('not-found');
  });
  it('has a round that was open go the way of its repair, whose limits stay its own', async () => {
    world = await laneWorld({ rooted: ['a'], offer: OCTOBER });
    await world.keepImagesOf(SEPTEMBER);
    await world.keepPackageOf(SEPTEMBER);
    const round = await begin(world, 'monthly update', { target: OCTOBER });
    const limits = async () => (await findRound(round))!.plan.limits;
    const own = await limits();
    for (const [repair, lane] of [
      ['whole-build', 'whole-build-repair'],
      ['erase', 'erase-and-start'],
    ] as const) {
      expect(await beginRepair(world.handset, repair, of(['loops']))).toBe(`/rounds/${round}`);
      expect(await limits()).toEqual(own);
      expect((await findRound(round))!.lane).toBe(lane);
      await saveCase({ handsetId: world.handset, like: null, state: NEW_CASE });
    }
  });
  it('goes on in the round that is open', async () => {
    world = await laneWorld();
    const round = await begin(world, 'first root', { lane: 'one-image-once' });
    expect(await beginRepair(world.handset, 'root-again', of(['no-root']))).toBe(`/rounds/${round}`);
  });
});

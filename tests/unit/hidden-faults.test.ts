import { afterEach, describe, expect, it } from 'vitest';
import type { CaseState, KeptAnswer } from '@/contracts/rescue-view';
import { NEW_CASE } from '@/contracts/rescue-view';
import type { HandsetState } from '@/core/handset/state';
import { toEternoError } from '@/core/errors';
import { adviceOf } from '@/core/rescue/advice';
import { believe } from '@/core/rescue/belief';
import type { HiddenFaultId } from '@/core/words/hidden-faults';
import type { CauseId, CheckId, RepairId, SymptomId } from '@/core/words/rescue';
import { beginRepair } from '@/server/rounds/rescue-round';
import { roundView } from '@/server/rounds/round-view';
import { closeCase, keptCase, readAnswers, saveCase } from '@/server/services/rescue-cases';
import { benchRows } from '@/server/services/bench-service';
import { rescueView } from '@/server/services/rescue-service';
import { otherCable, putFault, setCable, touchScreen } from '@/server/services/stand-in-service';
import { codeOf } from '../fixtures/expect-error';
import { hold, laneLink, see, seen, walk } from '../fixtures/lane-walk';
import type { LaneOptions, LaneWorld } from '../fixtures/lane-world';
import { LANE_PROFILE, laneWorld, OCTOBER, SEPTEMBER } from '../fixtures/lane-world';

/*
 * Faults that hide, put into a real stand-in from its panel: somebody looks, answers by reading where something
 * can be read, does what is advised, and the handset is back with its data; the case is closed with its cause.
 */

let world: LaneWorld | null = null;
afterEach(async () => {
  await world?.end();
  world = null;
});

/** What is seen by who looks at the handset itself; null for what can't be told so. */
function looked(check: CheckId, { mode }: HandsetState, fault: HiddenFaultId): string | null {
  const answers: Partial<Record<CheckId, string>> = {
    'wait-first': mode === 'system' ? 'starts' : 'same',
    'opens-bootloader': 'yes',
    'opens-recovery': fault === 'foreign-vendor-boot' ? 'no' : 'stock',
    'rests-modules': fault === 'bad-module' ? 'starts' : 'loops',
    'asks-wipe': fault === 'unopened-data' ? 'yes' : 'no',
    'app-there': 'yes',
    'other-mode': fault === 'debugging-off' ? 'yes' : 'no',
    'other-cable': 'no',
    'same-build': 'same',
    'root-command': fault === 'denying-app' ? 'denied' : 'none',
    'charge-first': 'shows',
  };
  return answers[check] ?? null;
}

/** In the bootloader its variables can be read; whoever is asked for them goes there. */
const READ: readonly CheckId[] = ['slot-lines', 'update-line', 'unlocked-line'];
async function intoBootloader(): Promise<void> {
  const { mode } = (await see()).state;
  if (mode === 'bootloader') return;
  if (mode === 'system') await laneLink().restart('bootloader');
  else {
    await hold(['power'], 'off');
    await hold(['power', 'down'], 'bootloader');
  }
  await seen('its bootloader', ({ state }) => state.mode === 'bootloader');
}

const restart = async (...modes: readonly HandsetState['mode'][]) => {
  const { mode } = (await see()).state;
  if (mode === 'bootloader') await laneLink().restart('system');
  else {
    if (mode !== 'off') await hold(['power'], 'off');
    await hold(['power'], 'starting', ...modes);
  }
  await seen(modes.join(' or '), ({ state }) => modes.includes(state.mode));
};

/** Whether the handset is well: its system runs on its own slot, and nothing of the fault is left. */
const isWell = async (fault: HiddenFaultId) => {
  const { state } = await see();
  const { settings, appDenies, running } = state;
  if (fault === 'stock-on-disk' && running?.rooted !== true) return false;
  return (
    state.mode === 'system' &&
    state.snapshot !== 'merging' &&
    state.cable &&
    settings.debugging &&
    appDenies !== true
  );
};

/** Does a repair as its sentence says it. */
async function carryOut(own: LaneWorld, repair: RepairId, state: CaseState): Promise<void> {
  switch (repair) {
    case 'wait':
    case 'charge':
    case 'free-line':
      return;
    case 'trust-again':
      if (!(await see()).state.settings.debugging) await touchScreen(LANE_PROFILE, 'debugging');
      return;
    case 'show-app':
      if ((await see()).state.appDenies) await touchScreen(LANE_PROFILE, 'let root app ask');
      return;
    case 'replug':
      return otherCable(LANE_PROFILE).then(() => undefined);
    case 'kit-rests':
      if ((await see()).state.mode !== 'looping') await restart('looping');
      return seen('enough starts', ({ state: { mode, loops } }) => mode === 'system' || loops > 5);
    case 'merge-on':
      await restart('system');
      return seen('its merge', ({ state: { snapshot } }) => snapshot === 'none');
    case 'other-slot':
      await intoBootloader();
      await laneLink().setActive((await see()).state.active === 'a' ? 'b' : 'a');
      return restart('system', 'looping');
    case 'parts-back':
    case 'right-package':
      return;
    default: {
      const href = await beginRepair(own.handset, repair, state);
      const round = /^\/rounds\/([0-9a-f-]{36})$/.exec(href)?.[1];
      if (round === undefined) throw new Error(`${repair} has no round of its own: ${href}`);
      // a round that a check holds, or whose start is not seen, stays open and is followed by the next repair's
      await walk(own, round).catch((thrown: unknown) => {
        if (toEternoError(thrown).code !== 'refused') throw thrown;
      });
      expect((await roundView(round)).state).not.toBe('given-up');
    }
  }
}

interface Solved {
  readonly did: readonly RepairId[];
  readonly read: readonly CheckId[];
  readonly by: string | null;
  readonly cause: CauseId | null;
}

/** One case from its symptoms to its end. */
async function solve(own: LaneWorld, fault: HiddenFaultId, symptoms: readonly SymptomId[]): Promise<Solved> {
  const of = { handsetId: own.handset, like: null };
  let state: CaseState = { ...NEW_CASE, symptoms };
  const did: RepairId[] = [];
  for (let i = 0; i < 25; i += 1) {
    await saveCase({ ...of, state });
    const { record, works, barred } = (await rescueView(own.handset, null)).chosen!;
    const told = { ...state, ruledOut: state.tried.flatMap((repair) => [...works[repair]]) };
    const believed = believe(record, told);
    const advice = adviceOf(
      believed,
      works,
      told,
      state.tried,
      barred.map(({ repair }) => repair),
    );
    if (advice.next === 'check') {
      const { check } = advice.checks[0]!;
      if (READ.includes(check)) await intoBootloader();
      const found = READ.includes(check) ? await readAnswers(own.handset, null, symptoms) : [];
      const read = found.find((one) => one.check === check);
      const answer: KeptAnswer = read
        ? { ...read, by: 'link' }
        : { check, answer: looked(check, (await see()).state, fault), by: 'you', saw: null };
      state = { ...state, answers: [...state.answers, answer] };
      continue;
    }
    if (advice.next === 'stop') break;
    const { repair } = advice.repairs[0]!;
    did.push(repair);
    await carryOut(own, repair, state);
    // whoever went into its bootloader to read lets it start again
    if ((await see()).state.mode === 'bootloader') await restart('system', 'looping');
    if (await isWell(fault)) {
      const cause = believed.find((one) => works[repair].includes(one.cause))?.cause ?? null;
      const closed = await closeCase({ ...of, state, repair, rung: null, cause });
      expect(await keptCase(of)).toBeNull();
      return {
        did,
        read: state.answers.filter(({ by }) => by === 'link').map(({ check }) => check),
        by: closed.by,
        cause,
      };
    }
    state = { ...state, tried: [...state.tried, repair] };
  }
  throw new Error(`not brought back by ${did.join(', ')}`);
}

/** They are seen while it runs. */
const RUNS_ON: readonly HiddenFaultId[] = ['stuck-update', 'dead-cable', 'debugging-off', 'denying-app'];

const MODULES: LaneOptions = {
  profile: { restsModulesAfter: 3 },
  state: { modules: { on: true, ids: ['torch'] } },
  kitChange: { formatVersion: 2, afterFailedStarts: { starts: 3, does: 'rest-modules' } },
};

interface Case {
  readonly fault: HiddenFaultId;
  readonly options?: LaneOptions;
  readonly symptoms: readonly SymptomId[];
  /** The cause that the repair which worked is believed to have mended. */
  readonly causes: readonly CauseId[];
  readonly mostRepairs: number;
  /** What brings it back is the newer build. */
  readonly newer?: true;
}
const CASES: readonly Case[] = [
  { fault: 'bad-module', options: MODULES, symptoms: ['loops'], causes: ['module'], mostRepairs: 2 },
  { fault: 'rotted-image', symptoms: ['loops'], causes: ['root-image', 'module', 'kit'], mostRepairs: 2 },
  {
    fault: 'foreign-vendor-boot',
    options: { profile: { recoveryHome: 'vendor_boot' } },
    symptoms: ['loops', 'recovery-dead', 'touch-dead'],
    causes: ['vendor-boot'],
    mostRepairs: 3,
  },
  { fault: 'no-tries', symptoms: ['in-bootloader'], causes: ['tries'], mostRepairs: 2 },
  { fault: 'wrong-slot', symptoms: ['loops'], causes: ['wrong-slot'], mostRepairs: 4 },
  { fault: 'cut-write', symptoms: ['loops'], causes: ['half-build'], mostRepairs: 5 },
  { fault: 'stuck-update', symptoms: ['update-refused'], causes: ['snapshot'], mostRepairs: 2 },
  {
    fault: 'unopened-data',
    symptoms: ['loops', 'asks-password'],
    causes: ['data'],
    mostRepairs: 3,
    newer: true,
  },
  { fault: 'dead-cable', symptoms: ['not-listed'], causes: ['cable'], mostRepairs: 3 },
  { fault: 'debugging-off', symptoms: ['not-listed'], causes: ['debugging-off'], mostRepairs: 3 },
  { fault: 'denying-app', symptoms: ['root-denied'], causes: ['root-app'], mostRepairs: 2 },
  { fault: 'stock-on-disk', symptoms: ['no-root'], causes: ['stock-on-disk', 'kit'], mostRepairs: 2 },
];

describe('a fault that hides in a stand-in', () => {
  it.each(CASES)('$fault: found, mended, and its data is there', async (one) => {
    const { fault, options = {}, symptoms, causes, mostRepairs, newer } = one;
    world = await laneWorld({
      rooted: ['a'],
      builds: { a: SEPTEMBER, b: SEPTEMBER },
      offer: OCTOBER,
      ...options,
    });
    await world.keepImagesOf(SEPTEMBER);
    await world.keepPackageOf(SEPTEMBER);
    if (newer) {
      await world.keepImagesOf(OCTOBER);
      await world.keepPackageOf(OCTOBER);
    }
    await world.keepPatched(SEPTEMBER);
    await putFault(LANE_PROFILE, fault);
    expect((await see()).state.mode).toBe('system');
    if (fault === 'stock-on-disk') await restart('system');
    else if (!RUNS_ON.includes(fault)) await restart('looping');
    const solved = await solve(world, fault, symptoms);
    expect(causes, solved.did.join(', ')).toContain(solved.cause);
    expect(solved.did.length, solved.did.join(', ')).toBeLessThanOrEqual(mostRepairs);
    expect(solved.by).not.toBe('you');
    expect((await benchRows())[0]!.root).not.toBe('broken');
    expect((await see()).state).toMatchObject({
      mode: 'system',
      data: { wipes: 0 },
      running: { build: newer ? OCTOBER : SEPTEMBER },
    });
  });
  it('is refused by who can’t have it, and by a name that is none', async () => {
    world = await laneWorld({ rooted: ['a'] });
    // no module is on it, and no update is out whose vendor_boot it could have
    for (const fault of ['bad-module', 'foreign-vendor-boot'] as const)
      expect(await codeOf(() => putFault(LANE_PROFILE, fault)), fault).toBe('handset-refused');
    expect(await codeOf(() => putFault(LANE_PROFILE, 'gremlins' as HiddenFaultId))).toBe('bad-field');
  });
  it('in its cable stays however often that is plugged in, until another one is', async () => {
    world = await laneWorld();
    await putFault(LANE_PROFILE, 'dead-cable');
    await setCable(LANE_PROFILE, true);
    expect(await laneLink().listed()).toBeNull();
    await otherCable(LANE_PROFILE);
    expect(await laneLink().listed()).toMatchObject({ mode: 'system' });
  });
});

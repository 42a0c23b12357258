import 'server-only';
import { nextBuild } from '@/core/bench/judgements';
import type { CaseState } from '@/contracts/rescue-view';
import { EternoError } from '@/core/errors';
import { NOT_STARTING } from '@/core/rescue/causes';
import { REPAIR_GOALS, REPAIR_LANES, REPAIR_SUPPOSES } from '@/core/rescue/repairs';
import type { RepairId } from '@/core/words/rescue';
import * as say from '@/core/words/step-evidence';
import { needHandset, readBench, readSubject } from '../services/bench-reading';
import { keptCase, tieRound } from '../services/rescue-cases';
import { tellRoot } from '../services/root-history';
import { giveUpRound } from './by-hand';
import { openRound } from './open-rounds';
import type { WantedLane } from './opening';
import { PLAIN_LIMITS, planRepair, startRound } from './opening';

type OpenRound = NonNullable<Awaited<ReturnType<typeof openRound>>>;

/** The build that its data may belong to: the next one that is known. */
async function newerBuild(handsetId: string): Promise<string | null> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  return nextBuild(subject, bench)?.fingerprint ?? null;
}

/** The lanes that do exactly this repair, with the fault that it is for. */
function lanesOf(repair: RepairId): WantedLane[] {
  const suppose = REPAIR_SUPPOSES[repair];
  const limits = { ...(repair === 'erase' ? { wipeAllowed: true } : {}), ...(suppose ? { suppose } : {}) };
  return (REPAIR_LANES[repair] ?? []).map((lane) => ({ lane, limits }));
}

/** One that is open goes this way from now on; where none is, one begins. */
async function inLane(
  handsetId: string,
  open: OpenRound | null,
  target: string | null,
  wanted: WantedLane,
): Promise<string> {
  if (open === null)
    return startRound({
      handsetId,
      goal: 'repair',
      target,
      lane: wanted.lane,
      limits: { ...PLAIN_LIMITS, ...wanted.limits },
    });
  await planRepair(open.id, open.version, wanted);
  return open.id;
}

/**
 * The round of this very repair; null where no lane of it is a way, as things are.
 * @throws {EternoError} other than `refused`
 */
async function ownRound(handsetId: string, open: OpenRound | null, repair: RepairId): Promise<string | null> {
  const target = repair === 'newer-build' ? await newerBuild(handsetId) : null;
  for (const wanted of lanesOf(repair)) {
    const round = await inLane(handsetId, open, target, wanted).catch(nullIfRefused);
    if (round !== null) return round;
  }
  return null;
}

/**
 * The round of what the repair brings back, where the handset itself starts: root, its recovery, a build; null
 * where no way leads there, as things are.
 * @throws {EternoError} other than `refused`
 */
async function roundOfGoal(handsetId: string, repair: RepairId): Promise<string | null> {
  const goal = REPAIR_GOALS[repair];
  if (goal === undefined || goal === 'repair') return null;
  const wish = { handsetId, goal, target: null, lane: null, limits: PLAIN_LIMITS };
  return startRound(wish).catch(nullIfRefused);
}

const nullIfRefused = (thrown: unknown): null => {
  if (thrown instanceof EternoError && thrown.code === 'refused') return null;
  throw thrown;
};

/** A round that was begun for another repair of this case has had its time. */
async function openFor(handsetId: string, repair: RepairId): Promise<OpenRound | null> {
  const open = await openRound(handsetId);
  const before = (await keptCase({ handsetId, like: null }))?.round;
  if (!open || before?.id !== open.id || before.repair === repair) return open;
  await giveUpRound(open.id, open.version);
  return null;
}

/**
 * From a case to its round: what shows counts as said, and the plan begins from there. The case is kept, and
 * knows its round.
 * @returns the page to go on at: the round that begins or is open, else the ways to what the repair is about
 * @throws {EternoError} `not-found`, `conflict` while a step runs
 */
export async function beginRepair(handsetId: string, repair: RepairId, state: CaseState): Promise<string> {
  await needHandset(handsetId);
  const fails = state.symptoms.some((symptom) => NOT_STARTING.includes(symptom));
  const at = async (round: string) => {
    await tieRound(handsetId, state, { id: round, repair });
    return `/rounds/${round}`;
  };
  const open = await openFor(handsetId, repair);
  if (fails) await tellRoot(handsetId, open?.id ?? null, 'broken', say.DOES_NOT_START);
  const own = await ownRound(handsetId, open, repair);
  if (own !== null) return at(own);
  if (open) return at(open.id);
  const round = await roundOfGoal(handsetId, repair);
  if (round !== null) return at(round);
  const goal = REPAIR_GOALS[repair] ?? 'repair';
  return `/rounds/new?handset=${handsetId}&goal=${encodeURIComponent(goal)}`;
}

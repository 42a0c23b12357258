import 'server-only';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { DebriefView, OwnPractice, PracticeView, TroubleView } from '@/contracts/practice-view';
import { waysQuery } from '@/contracts/ways-query';
import type { Happened, TrulyThen } from '@/core/practice/debrief';
import { debrief } from '@/core/practice/debrief';
import { CAUSE_OF_FAULT, surprisesOf } from '@/core/practice/scene';
import { REPAIR_IDS, REPAIRS } from '@/core/rescue/repairs';
import type { Round, RoundStep } from '@/core/rounds/round';
import { STEP_KINDS } from '@/core/steps/step-table';
import type { HiddenFaultId } from '@/core/words/hidden-faults';
import { isHiddenFault } from '@/core/words/hidden-faults';
import type { CauseId, RepairId } from '@/core/words/rescue';
import { dataDir } from '../db/data-dir';
import type { EventRow, HandsetRow } from '../db/models';
import { eventsOf, listEvents } from '../repositories/event-repository';
import { listHandsets } from '../repositories/handset-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import { PLAIN_LIMITS } from '../rounds/opening';
import { aboutStep, roundContext } from '../rounds/round-context';
import { trueStateOf } from './practice-self';
import { pastCases } from './rescue-cases';
import { worksOf } from './rescue-service';

/* How practice went: each round against its plan, trouble against what it was. */

const KINDS: Readonly<Record<string, Happened['kind']>> = {
  'hint-asked': 'hint',
  'step-failed': 'failed',
  slip: 'slip',
  'stock-put-back': 'undone',
  'planned-anew': 'anew',
};

/** The step that held restarts back at that time: the last that holds and was done by then. */
const holdingAt = (steps: readonly RoundStep[], at: number) =>
  steps.findLast(({ planned, endedAt }) => planned.holds && endedAt !== null && endedAt <= at)?.key ?? null;

function happenedIn(events: readonly Readonly<EventRow>[], steps: readonly RoundStep[]): Happened[] {
  return events
    .flatMap(({ at, kind, data }): Happened[] => {
      const known = KINDS[kind];
      if (known === undefined) return [];
      const told = JSON.parse(data) as { key?: string; slip?: string; error?: { message?: string } };
      const what = told.error?.message ?? told.slip ?? '';
      return [{ at, kind: known, key: told.key ?? (known === 'slip' ? holdingAt(steps, at) : null), what }];
    })
    .sort((one, two) => one.at - two.at);
}

async function trulyIn(round: Round): Promise<TrulyThen[]> {
  const noted = await eventsOf('true-state', { handsetId: round.handsetId });
  return noted
    .filter(({ roundId }) => roundId === round.id)
    .map(({ at, data: { key, done, ...state } }) => ({ at, key, done, state }))
    .sort((one, two) => one.at - two.at);
}

/** A package of this world is in no other: the way is asked for without it. */
function againOf({ kind, lane, plan }: Round): Record<string, string> {
  const { install: _install, ...limits } = plan.limits ?? PLAIN_LIMITS;
  const { handset: _handset, ...wanted } = waysQuery('', kind, limits, null);
  return { ...wanted, lane };
}

async function debriefOf(round: Round, { scene: { pace } }: OwnPractice): Promise<DebriefView> {
  const context = await roundContext(round.id);
  const { steps } = context;
  const found = debrief({
    steps,
    happened: happenedIn(await listEvents({ roundId: round.id }), steps),
    truly: await trulyIn(round),
    overridden: round.overrides.map(({ checkId }) => checkId),
    pace,
  });
  const { compared = [] } = round.plan;
  return {
    ...found,
    roundId: round.id,
    title: round.title,
    lane: compared.find(({ chosen }) => chosen)?.title ?? round.title,
    state: round.state,
    texts: steps.map((step) => {
      const { title, see } = STEP_KINDS[step.key].text(aboutStep(context, step));
      return { title, see };
    }),
    again: againOf(round),
    ways: compared.map(({ title, minutes, wipes, chosen }) => ({ title, minutes, wipes, chosen })),
  };
}

/** How each round that was begun here went, the newest first; a copy of older ones is no practice. */
export async function debriefs(own: OwnPractice): Promise<DebriefView[]> {
  const [handset] = await listHandsets();
  const rounds = handset ? await listRounds(handset.id) : [];
  const all: DebriefView[] = [];
  for (const round of rounds)
    if (round.openedAt >= own.since && (await stepsOf([round.id])).length > 0)
      all.push(await debriefOf(round, own));
  return all;
}

/** The fault that was put in when this world was made; null where nobody wrote it down. */
async function faultHere(): Promise<HiddenFaultId | null> {
  const path = join(/*turbopackIgnore: true*/ dataDir(), 'run', 'practice.json');
  const told = await readFile(/*turbopackIgnore: true*/ path, 'utf8').catch(() => '{}');
  const { fault } = JSON.parse(told) as { readonly fault?: unknown };
  return typeof fault === 'string' && isHiddenFault(fault) ? fault : null;
}

/** The repair of the fewest minutes that mends a cause, without a wipe where there is one; null where none does. */
async function leastRepair(handsetId: string, cause: CauseId): Promise<RepairId | null> {
  const works = await worksOf(handsetId);
  const able = REPAIR_IDS.filter((repair) => works?.[repair].includes(cause));
  const cost = (repair: RepairId) => Number(REPAIRS[repair].wipes) * 1000 + REPAIRS[repair].minutes;
  return able.sort((one, two) => cost(one) - cost(two))[0] ?? null;
}

export async function troubleHere(own: OwnPractice): Promise<TroubleView | null> {
  if (own.scene.kind !== 'trouble') return null;
  const [handset] = await listHandsets();
  if (!handset) return null;
  const closed = (await pastCases(handset.id)).filter(({ at }) => at >= own.since);
  const fault = closed.length === 0 ? null : await faultHere();
  const least = fault && (await leastRepair(handset.id, CAUSE_OF_FAULT[fault]));
  return {
    closed,
    was: fault && {
      fault,
      named: closed.some(({ cause }) => cause === CAUSE_OF_FAULT[fault]),
      least: least && { repair: least, minutes: REPAIRS[least].minutes },
    },
    wipes: await wipesHere(handset),
  };
}

/** Since the world was made. */
async function wipesHere({ profile }: Readonly<HandsetRow>): Promise<number> {
  return (await trueStateOf(profile))?.wipes ?? 0;
}

/** What came over the handset so far, and how many surprises are still to come. */
export async function surprisesHere({ scene }: OwnPractice): Promise<PracticeView['surprises']> {
  const all = surprisesOf(scene);
  const [handset] = await listHandsets();
  if (all.length === 0 || !handset) return null;
  const came = (await trueStateOf(handset.profile))?.came ?? [];
  return { came, left: all.length - came.length };
}

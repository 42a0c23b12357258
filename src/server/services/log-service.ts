import 'server-only';
import type { LogNote, LogRound, LogStep, LogView } from '@/contracts/log-view';
import type { Round } from '@/core/rounds/round';
import { workedSeconds } from '@/core/rounds/worked';
import { STEP_KINDS } from '@/core/steps/step-table';
import type { RootSpan } from '@/core/schedule/continuity';
import { longestRun, minutesWithoutRoot, rootSpans, shareWithRoot } from '@/core/schedule/continuity';
import type { KeptStep } from '../db/decode';
import type { HandsetRow, StepNoteRow } from '../db/models';
import { listHandsets } from '../repositories/handset-repository';
import { listNotes } from '../repositories/module-repository';
import { listRounds, stepsOf } from '../repositories/round-repository';
import { now } from './clock';
import { historiesOfAll } from './handset-history';
import { againOf } from '../rounds/round-view';
import { stepAbout } from '@/core/steps/step-about';

const noteOf = ({ text, picture, at }: Readonly<StepNoteRow>): LogNote => ({ text, picture, at });

function logStep(
  row: KeptStep,
  round: Round,
  handset: Readonly<HandsetRow> | undefined,
  notes: readonly Readonly<StepNoteRow>[],
): LogStep {
  const kind = STEP_KINDS[row.key];
  const { planned } = row;
  const known = {
    rootPartition: handset?.rootPartition ?? null,
    recoveryHome: null,
    slotCount: handset?.slotCount ?? null,
    unlockPath: null,
  };
  const about = stepAbout(handset?.name ?? '', known, null, round.target, planned);
  return {
    id: row.id,
    key: row.key,
    title: kind.text(about).title,
    stage: kind.stage,
    state: row.state,
    actor: row.actor,
    startedAt: row.startedAt,
    seconds: workedSeconds(row),
    plannedSeconds: planned.build === '' ? kind.seconds[0] : planned.minutes[0] * 60,
    evidence: row.evidence,
    notes: notes.filter((note) => note.stepId === row.id).map(noteOf),
  };
}

async function spansOf(
  handsets: readonly Readonly<HandsetRow>[],
): Promise<ReadonlyMap<string, readonly RootSpan[]>> {
  const histories = await historiesOfAll();
  return new Map(handsets.map(({ id }) => [id, rootSpans(histories(id).rootChanges, now())]));
}

/** Every round, newest first, with its steps and how long each took; and how long each handset held root. */
export async function logView(): Promise<LogView> {
  const [rounds, handsets, notes] = [await listRounds(), await listHandsets(), await listNotes()];
  const spans = await spansOf(handsets);
  const steps = new Map<string, KeptStep[]>();
  for (const step of await stepsOf(rounds.map((round) => round.id)))
    steps.set(step.roundId, [...(steps.get(step.roundId) ?? []), step]);
  const told = rounds.map((round): LogRound => {
    const handset = handsets.find((one) => one.id === round.handsetId);
    const ownNotes = notes.filter((note) => note.roundId === round.id);
    const own = (steps.get(round.id) ?? []).map((row) => logStep(row, round, handset, ownNotes));
    const { id, kind, title, state, openedAt, closedAt } = round;
    return {
      id,
      kind,
      title,
      handset: handset?.name ?? '',
      lane: round.plan.compared?.find((one) => one.chosen)?.title ?? 'One image, written once',
      state,
      openedAt,
      closedAt,
      reached: round.reached,
      seconds: own.reduce((sum, step) => sum + (step.seconds ?? 0), 0),
      minutesWithoutRoot: minutesWithoutRoot(spans.get(round.handsetId) ?? [], openedAt, closedAt ?? now()),
      overrides: round.overrides.map(({ checkId, reason }) => ({ check: checkId, reason })),
      notes: ownNotes.filter((note) => note.stepId === null).map(noteOf),
      again: againOf(round),
      steps: own,
    };
  });
  const held = handsets.map(({ id, name }) => {
    const own = spans.get(id) ?? [];
    return {
      handset: name,
      share: shareWithRoot(own),
      longestMs: longestRun(own),
      minutesWithoutRoot: minutesWithoutRoot(own, 0, now()),
    };
  });
  return { rounds: told, held };
}

export const logRounds = async (): Promise<readonly LogRound[]> => (await logView()).rounds;

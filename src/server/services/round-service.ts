import 'server-only';
import { EternoError, toEternoError } from '@/core/errors';
import type { Override } from '@/core/gates/check';
import { blocking } from '@/core/gates/check';
import type { GoalId, Limits, PlanContext } from '@/core/planning/context';
import { GOAL_WORDS, isUpdate } from '@/core/planning/goals';
import type { LanePlan, RoundPlans } from '@/core/planning/plan-round';
import type { Evidence } from '@/core/rounds/evidence';
import { expandPlan } from '@/core/rounds/expand-plan';
import { signOff, unproved } from '@/core/rounds/sign-off';
import { DONE_HERE } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-kind';
import type { ComparedLane } from '@/contracts/round-view';
import type { BackupRow, StepRow } from '../db/models';
import { appendEvent, listEvents } from '../repositories/event-repository';
import { changeRound, findRound, insertRound, openRoundOf, replaceSteps } from '../repositories/round-repository';
import { writeSecret } from '../repositories/handset-repository';
import { now } from './clock';
import { applyFacts } from './fact-service';
import { settleRootPartition } from './bench-service';
import { needHandset } from './bench-reading';
import { publish } from './message-bus';
import { lastGood, planFor } from './plan-service';
import { noteStep, openPutBacks } from './put-back-service';
import { noteBackup } from './record-service';
import { tellRoot } from './root-history';
import type { KeptPlan, RoundContext, RoundStepRow } from './round-context';
import { goalOf, imageOf, partitionFor, roundContext } from './round-context';
import { gatedStep, gatesOf } from './round-gates';
import { settleRound } from './round-settling';
import { slotOf } from './round-steps/running';
import type { StepContext } from './round-steps/running';
import { tellSlot } from './slot-service';
import { noteKitTrial } from './trial-service';

const TITLES: Readonly<Record<GoalId, string>> = {
  'first root': 'First root',
  'root again': 'Root again',
  'monthly update': 'Monthly update',
  'major upgrade': 'Major upgrade',
  downgrade: 'Downgrade',
  'keep a recovery': 'Recovery',
  'return to stock': 'Return to stock',
  'lock again': 'Stock and locked',
  'root without unlocking': 'Root without unlocking',
  repair: 'Repair',
};

export interface RoundWish {
  readonly handsetId: string;
  readonly goal: GoalId;
  readonly target: string | null;
  /** Null takes the pick. */
  readonly lane: string | null;
  readonly limits: Limits;
}

const stepRow = ({ key, about }: { key: StepKey; about: object }): Omit<StepRow, 'id' | 'roundId' | 'position'> => ({
  key,
  state: 'waiting',
  startedAt: null,
  endedAt: null,
  actor: null,
  evidence: '[]',
  about: JSON.stringify(about),
});

function chosenPlan({ plans, pick, others }: RoundPlans, lane: string | null): LanePlan {
  const plan = plans.find((one) => one.lane.id === (lane ?? pick));
  if (plan) return plan;
  const out = others.find((one) => one.lane.id === lane) ?? others[0];
  throw new EternoError('refused', out ? `${out.lane.title}: ${out.reason}` : 'It is there already: nothing has to be done.');
}

/** @param before the plan that it takes the place of: what that one switched off still has to come back */
function keptPlan({ plans, why }: RoundPlans, plan: LanePlan, limits: Limits, context: PlanContext, before?: KeptPlan): KeptPlan {
  const modulesOff = context.modulesOff?.length ? context.modulesOff : (before?.modulesOff ?? context.modulesOff);
  const compared = plans.map(({ lane, figures }): ComparedLane => ({
    title: lane.title,
    minutes: figures.minutes,
    wipes: figures.wipes,
    restarts: figures.restarts,
    chosen: lane.id === plan.lane.id,
  }));
  return { version: 1, limits, compared, why, ...(modulesOff ? { modulesOff } : {}) };
}

/** Opens a round in a lane, or gives the one that is open. @throws {EternoError} `refused` where no way leads there, with the reason */
export async function startRound({ handsetId, goal, target, lane, limits }: RoundWish): Promise<string> {
  const handset = await needHandset(handsetId);
  const open = await openRoundOf(handsetId);
  if (open) return open.id;
  await settleRootPartition(handsetId);
  const planned = await planFor(handsetId, { goal, target, limits });
  if (typeof planned === 'string') throw new EternoError('refused', planned);
  const plan = chosenPlan(planned.plans, lane);
  const title = TITLES[goal];
  const last = await lastGood(handsetId, goal);
  const round = await insertRound(
    {
      handsetId,
      kind: goal,
      lane: plan.lane.id,
      title,
      target: planned.context.target,
      plan: JSON.stringify(keptPlan(planned.plans, plan, limits, planned.context)),
      basedOn: last?.id ?? null,
      state: 'open',
      version: 0,
      overrides: '[]',
      openedAt: now(),
      closedAt: null,
    },
    expandPlan(planned.context, plan).map(stepRow),
  ).catch((thrown: unknown) => {
    if (toEternoError(thrown).code === 'conflict') return null;
    throw thrown;
  });
  // another tab was faster: there is one open round a handset
  if (round === null) return (await openRoundOf(handsetId))!.id;
  await appendEvent({
    at: now(),
    handsetId,
    roundId: round.id,
    kind: 'round-opened',
    data: { version: 1, title, handset: handset.name, lane: plan.lane.id },
  });
  return round.id;
}

/** The round as it stands, if `key` is the step to do now. @throws {EternoError} `conflict` when somebody was faster */
export async function expectStep(roundId: string, version: number, keys: readonly StepKey[] | null): Promise<StepContext> {
  const context = await roundContext(roundId);
  if (context.round.version !== version) throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
  const step = context.steps.find((one) => one.state !== 'done');
  if (context.round.state !== 'open' || !step || (keys !== null && !keys.includes(step.stepKey)))
    throw new EternoError('conflict', 'this is not the step to do now');
  if (step.state === 'running') throw new EternoError('conflict', 'this step is running already');
  return { ...context, step };
}

/** @throws {EternoError} `refused` naming the checks that hold the step back */
export async function needGates(context: RoundContext, step: RoundStepRow, overrides: readonly Override[]): Promise<void> {
  const open = blocking(await gatesOf(context, step), overrides);
  if (open.length > 0) throw new EternoError('refused', `Not yet: ${open.map((check) => check.title.toLowerCase()).join('; ')}.`);
}
export const overridesOf = ({ round }: RoundContext) => JSON.parse(round.overrides) as Override[];

/** Ends a step with what was seen, writes it down, and looks which following steps are done already. */
export async function finishStep(
  context: StepContext,
  version: number,
  actor: NonNullable<StepRow['actor']>,
  evidence: readonly Evidence[],
): Promise<void> {
  const { round, step, handset } = context;
  const endedAt = now();
  const startedAt = step.startedAt ?? lastEnd(context);
  await changeRound(round.id, version, {}, [
    { id: step.id, change: { state: 'done', startedAt, endedAt, actor, evidence: JSON.stringify(evidence) } },
  ]);
  publish({ type: 'round', roundId: round.id, version: version + 1 });
  await noteStep(handset.id, round.id, step.stepKey);
  await appendEvent({
    at: endedAt,
    handsetId: handset.id,
    roundId: round.id,
    kind: 'step-done',
    data: { version: 1, key: step.key, actor, seconds: (endedAt - startedAt) / 1000, evidence },
  });
  await settleRound((await findRound(round.id))!);
  if (step.stepKey === 'read-facts') await planAgainIfOther(round.id);
}

function lastEnd({ steps, round }: RoundContext): number {
  return steps.reduce((latest, step) => Math.max(latest, step.endedAt ?? 0), round.openedAt);
}

/** What was read changes the plan (another build, modules, a switch): it is made anew before anything is done. */
async function planAgainIfOther(roundId: string): Promise<void> {
  const { facts, steps, round } = await roundContext(roundId);
  const waiting = steps.filter((step) => step.state !== 'done');
  const anew = await plannedAnew(roundId).catch((thrown: unknown) => {
    // no way from here: the round stands where it stood, and the next step's checks say why
    if (toEternoError(thrown).code !== 'refused') throw thrown;
    return null;
  });
  const fresh = anew?.steps ?? null;
  const listed = (ids: readonly string[] = []) => [...ids].sort().join();
  const same =
    fresh !== null &&
    listed(anew?.planned.context.modulesOff) === listed(anew?.kept.modulesOff) &&
    steps[0]?.planned.build === facts.fingerprint &&
    // what the vault has settled since is in neither
    waiting.every((step) => fresh.some((one) => one.key === step.stepKey)) &&
    fresh.every((one) => steps.some((step) => step.stepKey === one.key));
  if (same || fresh === null) return;
  await replan(roundId, round.version);
}

/** The way on from what is known now. @throws {EternoError} `refused` where none leads there any more */
async function plannedAnew(roundId: string) {
  const context = await roundContext(roundId);
  const { round, facts, handset, plan: kept } = context;
  const limits = kept.limits ?? { computer: true, wipeAllowed: false, keepFuse: false };
  const arrived = round.target !== null && facts.fingerprint === round.target;
  // the build runs already, without its root: what is left is root
  const goal: GoalId = isUpdate(goalOf(round)) && arrived ? 'root again' : goalOf(round);
  const moves = isUpdate(goal) || goal === 'downgrade';
  const planned = await planFor(handset.id, { goal, target: moves ? round.target : null, limits });
  if (typeof planned === 'string') throw new EternoError('refused', planned);
  const lane = planned.plans.plans.some((one) => one.lane.id === round.lane) ? round.lane : null;
  const plan = chosenPlan(planned.plans, lane);
  const done = context.steps.filter((step) => step.state === 'done');
  const told = new Set(done.map((step) => step.stepKey));
  const next = expandPlan(planned.context, plan).filter(({ key }) => !((key === 'read-facts' || key === 'protect') && told.has(key)));
  return { goal, plan, planned, limits, done, handset, kept, steps: next };
}

/**
 * A new plan from what is known now; the steps that are done stay, all others are replaced.
 * @throws {EternoError} `refused` where no way leads there any more
 */
export async function replan(roundId: string, version: number): Promise<void> {
  const { goal, plan, planned, limits, done, handset, kept, steps: next } = await plannedAnew(roundId);
  await replaceSteps(
    roundId,
    version,
    { lane: plan.lane.id, plan: JSON.stringify(keptPlan(planned.plans, plan, limits, planned.context, kept)), target: planned.context.target },
    done.map((step) => step.id),
    next.map(stepRow),
  );
  await appendEvent({
    at: now(),
    handsetId: handset.id,
    roundId,
    kind: 'planned-anew',
    data: { version: 1, lane: plan.lane.id, goal: GOAL_WORDS[goal] },
  });
  publish({ type: 'round', roundId, version: version + 1 });
  await settleRound((await findRound(roundId))!);
}

/** By hand: a dump or bootloader variables that the person pasted at this step. */
export async function pasteAtStep(roundId: string, version: number, text: string): Promise<void> {
  const context = await expectStep(roundId, version, ['read-facts', 'bootloader', 'start', 'finish-start', 'debugging', 'unlock', 'lock']);
  const facts = await applyFacts(context.handset.id, text, 'pasted');
  if (context.step.stepKey === 'read-facts' && facts.fingerprint === null)
    throw new EternoError('bad-field', 'The text names no build: paste the property dump of the running system.');
  const evidence: Evidence[] = [
    {
      what: `pasted: ${[facts.buildId, facts.currentSlot && `slot ${facts.currentSlot}`].filter(Boolean).join(', ') || 'bootloader variables'}`,
      strength: 'weak',
    },
  ];
  if (facts.serial !== null) evidence.push({ what: 'the serial is this handset’s', strength: 'strong' });
  await finishStep(context, version, 'hand', evidence);
}

/** By hand: what the person says they saw. Weak evidence, and marked so. */
export async function sayAtStep(roundId: string, version: number, seen: string): Promise<void> {
  const context = await expectStep(roundId, version, null);
  const { step, handset } = context;
  if (DONE_HERE.includes(step.stepKey)) throw new EternoError('refused', 'This step is done here, not by word.');
  await needGates(context, step, overridesOf(context));
  const image = imageOf(context, step);
  const partition = image && partitionFor(context, step, image);
  if (image && partition !== null && step.planned.writes)
    await tellSlot({
      handsetId: handset.id,
      slot: slotOf(context),
      partition,
      sha256: image.sha256,
      certainty: 'predicted',
      reason: 'said to be written by hand',
    });
  await finishStep(context, version, 'hand', [{ what: `said: ${seen}`, strength: 'weak' }]);
}

/** The code that came by mail, kept with the handset's private values. */
export async function giveCode(roundId: string, version: number, code: string): Promise<void> {
  const context = await expectStep(roundId, version, ['ask-code']);
  await writeSecret(context.handset.id, 'code', code.trim());
  await finishStep(context, version, 'hand', [{ what: 'the code came by mail and is kept with the private values', strength: 'weak' }]);
}

/** Lets the round past its checks, if each holds or may be overridden and was, with a reason. */
export async function confirmChecks(roundId: string, version: number, overrides: readonly Override[]): Promise<void> {
  const context = await expectStep(roundId, version, null);
  const gated = gatedStep(context, context.step);
  if (!gated) throw new EternoError('conflict', 'this step has no checks');
  await needGates(context, gated, overrides);
  const checks = await gatesOf(context, gated);
  const used = overrides.filter((override) => checks.some((check) => check.id === override.checkId && check.verdict !== 'holds'));
  const all = [...overridesOf(context).filter((one) => !used.some(({ checkId }) => checkId === one.checkId)), ...used];
  await changeRound(roundId, version, { overrides: JSON.stringify(all) });
  if (context.step.stepKey !== 'check') return publish({ type: 'round', roundId, version: version + 1 });
  const evidence: Evidence[] = checks.map((check) => {
    const override = used.find((one) => one.checkId === check.id);
    return override
      ? { what: `${check.title}: overridden, “${override.reason}”`, strength: 'weak' }
      : { what: `${check.title}: ${check.evidence}`, strength: 'strong' };
  });
  await finishStep(context, version + 1, 'computer', evidence);
}

/** What was taken off the handset before it is erased, kept with its records; `none` with a reason. */
export async function backUp(roundId: string, version: number, what: BackupRow['what'] | 'none', note: string): Promise<void> {
  const context = await expectStep(roundId, version, ['back-up']);
  if (what === 'none') {
    if (note.trim() === '') throw new EternoError('refused', 'Not yet: say why nothing has to be kept.');
    return finishStep(context, version, 'hand', [{ what: `nothing backed up: “${note.trim()}”`, strength: 'weak', nothingKept: note.trim() }]);
  }
  await noteBackup({ handsetId: context.handset.id, what, place: 'off the handset', note });
  await finishStep(context, version, 'hand', [
    { what: `backed up off the handset: ${what}${note.trim() === '' ? '' : `, ${note.trim()}`}`, strength: 'weak' },
  ]);
}

/** Before the handset is touched: the rescue page was downloaded, or a reason says why not. */
export async function confirmProtect(roundId: string, version: number, reason: string): Promise<void> {
  const context = await expectStep(roundId, version, ['protect']);
  const page = await rescueAt(roundId);
  if (page === null && reason.trim() === '') throw new EternoError('refused', 'Not yet: download the rescue page, or say why you do without.');
  await finishStep(context, version, page === null ? 'hand' : 'computer', [
    page === null
      ? { what: `without a rescue page: “${reason.trim()}”`, strength: 'weak' }
      : { what: 'the rescue page was downloaded', strength: 'strong' },
  ]);
}

/** When the rescue page of a round was downloaded last. */
export async function rescueAt(roundId: string): Promise<number | null> {
  return (await listEvents({ kind: 'rescue-page', roundId })).at(-1)?.at ?? null;
}

/** What only the person can see: one line each for data, calls, payments. */
export async function lookAround(roundId: string, version: number, answers: Readonly<Record<'data' | 'calls' | 'payments', string>>): Promise<void> {
  const context = await expectStep(roundId, version, ['look-around']);
  await finishStep(
    context,
    version,
    'hand',
    (['data', 'calls', 'payments'] as const).map((what) => ({ what: `${what}: ${answers[what]}`, strength: 'weak' })),
  );
}

/** Ends the round, if every claim has its evidence. @throws {EternoError} `refused` naming the claims without */
export async function closeRound(roundId: string, version: number): Promise<void> {
  const context = await expectStep(roundId, version, ['close']);
  const { handset, round } = context;
  const steps = context.steps.map(({ stepKey, state, evidence }) => ({ key: stepKey, state, evidence: JSON.parse(evidence) as Evidence[] }));
  const claims = signOff(
    steps,
    (await openPutBacks(handset.id)).map(({ what }) => what),
  );
  const bare = unproved(claims);
  if (bare.length > 0) throw new EternoError('refused', `No evidence yet for: ${bare.map((claim) => claim.claim.toLowerCase()).join('; ')}.`);
  const root = claims.find(({ claim }) => claim === 'Root works');
  if (root) {
    const proved = root.missing === null;
    if (proved) await noteKitTrial(context, 'worked', 'root was proved in a round');
    await tellRoot(handset.id, roundId, proved ? 'proven' : 'unproven', proved ? 'proved in this round' : 'only what was said, not proved');
  } else if (goalOf(round) === 'return to stock' || goalOf(round) === 'lock again')
    await tellRoot(handset.id, roundId, 'stock', 'returned to stock in this round');
  const endedAt = now();
  const startedAt = context.step.startedAt ?? lastEnd(context);
  const evidence: readonly Evidence[] = [{ what: 'signed off', strength: 'strong' }];
  // the last step and the round end together: a round is never left open with nothing to do
  const last = { state: 'done' as const, startedAt, endedAt, actor: 'computer' as const, evidence: JSON.stringify(evidence) };
  await changeRound(roundId, version, { state: 'closed', closedAt: endedAt }, [{ id: context.step.id, change: last }]);
  const seconds = (endedAt - startedAt) / 1000;
  const done = { version: 1, key: context.step.key, actor: 'computer', seconds, evidence };
  await appendEvent({ at: endedAt, handsetId: handset.id, roundId, kind: 'step-done', data: done });
  await appendEvent({ at: endedAt, handsetId: handset.id, roundId, kind: 'round-closed', data: { version: 1, title: round.title } });
  publish({ type: 'round', roundId, version: version + 1 });
}

/** What the person says of a round after it. @throws {EternoError} `conflict` for one that was not closed */
export async function answerAgain(roundId: string, version: number, again: 'yes' | 'no', note: string): Promise<void> {
  const { round, handset } = await roundContext(roundId);
  if (round.state !== 'closed') throw new EternoError('conflict', 'this round is not closed');
  await changeRound(roundId, version, { again, againNote: again === 'yes' ? null : note });
  await appendEvent({ at: now(), handsetId: handset.id, roundId, kind: 'same-way-again', data: { version: 1, again, note } });
  publish({ type: 'round', roundId, version: version + 1 });
}

/** Ends the round where it stands; the log keeps what was done. */
export async function giveUpRound(roundId: string, version: number): Promise<void> {
  const { round, handset, steps } = await roundContext(roundId);
  if (round.state !== 'open') throw new EternoError('conflict', 'this round is closed already');
  if (steps.some((step) => step.state === 'running')) throw new EternoError('conflict', 'a step is running: let it end first');
  await changeRound(roundId, version, { state: 'given-up', closedAt: now() });
  await appendEvent({ at: now(), handsetId: handset.id, roundId, kind: 'round-given-up', data: { version: 1, title: round.title } });
  publish({ type: 'round', roundId, version: version + 1 });
}

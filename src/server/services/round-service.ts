import 'server-only';
import type { Evidence } from '@/contracts/round-view';
import { EternoError } from '@/core/errors';
import type { Override } from '@/core/gates/check';
import { blocking } from '@/core/gates/check';
import { LANE_STEPS, ONE_IMAGE_ONCE } from '@/core/lanes/one-image-once';
import type { StepKey } from '@/core/lanes/steps';
import type { StepRow } from '../db/models';
import { appendEvent } from '../repositories/event-repository';
import { changeRound, findRound, insertRound, listRounds, openRoundOf } from '../repositories/round-repository';
import { now } from './clock';
import { applyFacts } from './fact-service';
import { needHandset, settleRootPartition } from './bench-service';
import { publish } from './message-bus';
import { rootChanges, tellRoot } from './root-history';
import { settleRound } from './round-settling';
import type { RoundContext } from './round-view';
import { evidenceOf, gatesOf, roundContext, signOffOf } from './round-view';
import { tellSlot } from './slot-service';
import { noteKitTrial } from './trial-service';

/** Opens a round for a handset, or gives the one that is open. */
export async function startRound(handsetId: string): Promise<string> {
  const handset = await needHandset(handsetId);
  const open = await openRoundOf(handsetId);
  if (open) return open.id;
  await settleRootPartition(handsetId);
  const before = (await rootChanges(handsetId)).some((change) => change.state === 'proven');
  const round = await insertRound(
    {
      handsetId,
      kind: before ? 'root-again' : 'first-root',
      lane: ONE_IMAGE_ONCE.id,
      title: before ? 'Root again' : 'First root',
      state: 'open',
      version: 0,
      overrides: '[]',
      openedAt: now(),
      closedAt: null,
    },
    LANE_STEPS.map((step) => ({ key: step.key, state: 'waiting' as const, startedAt: null, endedAt: null, actor: null, evidence: '[]' })),
  );
  await appendEvent({
    at: now(),
    handsetId,
    roundId: round.id,
    kind: 'round-opened',
    data: { version: 1, title: round.title, handset: handset.name },
  });
  return round.id;
}

/** The round as it stands, if `key` is the step to do now. @throws {EternoError} `conflict` when somebody was faster */
export async function expectStep(roundId: string, version: number, keys: readonly StepKey[]): Promise<RoundContext & { step: Readonly<StepRow> }> {
  const context = await roundContext(roundId);
  if (context.round.version !== version) throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
  const step = context.steps.find((one) => one.state !== 'done');
  if (context.round.state !== 'open' || !step || !keys.includes(step.key as StepKey))
    throw new EternoError('conflict', 'this is not the step to do now');
  if (step.state === 'running') throw new EternoError('conflict', 'this step is running already');
  return { ...context, step };
}

export async function markStep(roundId: string, version: number, step: Readonly<StepRow>, change: Partial<StepRow>): Promise<void> {
  await changeRound(roundId, version, {}, [{ id: step.id, change }]);
  publish({ type: 'round', roundId, version: version + 1 });
}

/** Ends a step with what was seen, writes it down, and looks which following steps are done already. */
export async function finishStep(
  context: RoundContext & { step: Readonly<StepRow> },
  version: number,
  actor: NonNullable<StepRow['actor']>,
  evidence: readonly Evidence[],
): Promise<void> {
  const { round, step, handset } = context;
  const endedAt = now();
  const startedAt = step.startedAt ?? lastEnd(context) ?? endedAt;
  await markStep(round.id, version, step, { state: 'done', startedAt, endedAt, actor, evidence: JSON.stringify(evidence) });
  await appendEvent({
    at: endedAt,
    handsetId: handset.id,
    roundId: round.id,
    kind: 'step-done',
    data: { version: 1, key: step.key, actor, seconds: (endedAt - startedAt) / 1000, evidence },
  });
  await settleRound((await findRound(round.id))!);
}

function lastEnd({ steps, round }: RoundContext): number {
  return steps.reduce((latest, step) => Math.max(latest, step.endedAt ?? 0), round.openedAt);
}

/** By hand: a dump or bootloader variables that the person pasted at this step. */
export async function pasteAtStep(roundId: string, version: number, text: string): Promise<void> {
  const context = await expectStep(roundId, version, ['read-facts', 'enter-bootloader', 'restart']);
  const facts = await applyFacts(context.handset.id, text, 'pasted');
  const key = context.step.key as StepKey;
  if (key === 'read-facts' && facts.fingerprint === null)
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
  const context = await expectStep(roundId, version, ['enter-bootloader', 'write-image', 'restart', 'prove-root']);
  if (context.step.key === 'write-image') {
    const open = blocking(await gatesOf(context, 'patched'), JSON.parse(context.round.overrides) as Override[]);
    if (open.length > 0) throw new EternoError('refused', `Not yet: ${open.map((check) => check.title.toLowerCase()).join('; ')}.`);
    const { partition, sha256 } = context.images.patched!;
    const slot = context.about.slot || null;
    await tellSlot({
      handsetId: context.handset.id,
      slot,
      partition,
      sha256,
      certainty: 'predicted',
      reason: 'said to be written by hand',
    });
  }
  await finishStep(context, version, 'hand', [{ what: `said: ${seen}`, strength: 'weak' }]);
}

/** Lets the round past its checks, if each holds or may be overridden and was, with a reason. */
export async function confirmChecks(roundId: string, version: number, overrides: readonly Override[]): Promise<void> {
  const context = await expectStep(roundId, version, ['check']);
  const checks = await gatesOf(context, 'patched');
  const open = blocking(checks, overrides);
  if (open.length > 0) throw new EternoError('refused', `Not yet: ${open.map((check) => check.title.toLowerCase()).join('; ')}.`);
  const used = overrides.filter((override) => checks.some((check) => check.id === override.checkId && check.verdict !== 'holds'));
  await changeRound(roundId, version, { overrides: JSON.stringify(used) });
  const evidence: Evidence[] = checks.map((check) => {
    const override = used.find((one) => one.checkId === check.id);
    return override
      ? { what: `${check.title}: overridden, “${override.reason}”`, strength: 'weak' }
      : { what: `${check.title}: ${check.evidence}`, strength: 'strong' };
  });
  await finishStep(context, version + 1, 'computer', evidence);
}

/** Ends the round, if every claim has its evidence. @throws {EternoError} `refused` naming the claims without */
export async function closeRound(roundId: string, version: number): Promise<void> {
  const context = await expectStep(roundId, version, ['close']);
  const bare = signOffOf(context.steps).filter((claim) => claim.evidence.length === 0);
  if (bare.length > 0) throw new EternoError('refused', `No evidence yet for: ${bare.map((claim) => claim.claim.toLowerCase()).join('; ')}.`);
  await finishStep(context, version, 'computer', [{ what: 'signed off', strength: 'strong' }]);
  const proof = context.steps.filter((step) => step.key === 'prove-root').flatMap(evidenceOf);
  const strong = proof.some((item) => item.strength === 'strong');
  if (strong) await noteKitTrial(context, 'worked', 'root was proved in a round');
  await tellRoot(context.handset.id, roundId, strong ? 'proven' : 'unproven', strong ? 'proved in this round' : 'only what was said, not proved');
  const round = (await findRound(roundId))!;
  await changeRound(roundId, round.version, { state: 'closed', closedAt: now() });
  await appendEvent({ at: now(), handsetId: context.handset.id, roundId, kind: 'round-closed', data: { version: 1, title: round.title } });
  publish({ type: 'round', roundId, version: round.version + 1 });
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

/** The newest open round, for the way back from other rooms. */
export async function newestOpenRound(): Promise<{ id: string; handset: string } | null> {
  const open = (await listRounds()).find((round) => round.state === 'open');
  return open ? { id: open.id, handset: (await needHandset(open.handsetId)).name } : null;
}

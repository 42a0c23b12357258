import 'server-only';
import { EternoError } from '@/core/errors';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import type { ComparedLane } from '@/contracts/round-view';
import type { GoalId, Limits } from '@/core/planning/context';
import type { PlannedAbout } from '@/core/rounds/expand-plan';
import type { StepAbout, StepKey } from '@/core/steps/step-kind';
import { WHOLE_WRITES } from '@/core/planning/limits';
import { DEEDS } from '@/core/steps/deeds';
import { isStepKey } from '@/core/steps/step-table';
import type { HandsetRow, ImageRow, RoundRow, StepRow } from '../db/models';
import { findRound, stepsOf } from '../repositories/round-repository';
import { needHandset, readBench, readSubject } from './bench-reading';
import type { KnownFacts } from './fact-service';
import type { Bench, Subject } from './judgements';
import { recoveriesShelved, recoveryOf, rootOf } from './judgements';
import { stepAbout } from './step-about';

export async function needRound(id: string): Promise<Readonly<RoundRow>> {
  const round = await findRound(id);
  if (!round) throw new EternoError('not-found', 'There is no such round.');
  return round;
}

/** What a round keeps of the choice that began it. */
export interface KeptPlan {
  readonly version: 1;
  readonly limits?: Limits;
  readonly compared?: readonly ComparedLane[];
  readonly why?: string;
  /** Modules that were judged too risky to stay on. */
  readonly modulesOff?: readonly string[];
}

/** A row with its plan read; rounds of before there were plans say what the lane of then said. */
export interface RoundStepRow extends StepRow {
  readonly stepKey: StepKey;
  readonly planned: PlannedAbout;
}

/** Everything a round's page and its actions work from, read together. */
export interface RoundContext {
  readonly round: Readonly<RoundRow>;
  readonly plan: KeptPlan;
  readonly handset: Readonly<HandsetRow>;
  readonly facts: HandsetFacts;
  readonly known: KnownFacts;
  readonly subject: Subject;
  readonly bench: Bench;
  readonly rootPartition: string | null;
  /** The partition that its recovery lives in; null where that was never read. */
  readonly recoveryHome: 'recovery' | 'boot' | 'vendor_boot' | null;
  readonly slotCount: 1 | 2;
  readonly steps: readonly RoundStepRow[];
}

function plannedOf(row: Readonly<StepRow> & { readonly stepKey: StepKey }, build: string, slot: string | null): PlannedAbout {
  const kept = JSON.parse(row.about) as Partial<PlannedAbout>;
  if (kept.build !== undefined) return kept as PlannedAbout;
  const { writes: written, here } = DEEDS[row.stepKey];
  const writes = written !== null;
  return {
    version: 1,
    slot: slot === 'b' ? 'b' : 'a',
    build,
    mode: here ? 'computer' : writes || row.key === 'bootloader' ? 'bootloader' : 'system',
    writes,
    erases: false,
    starts: row.key === 'start',
    holds: false,
    pointOfNoReturn: false,
    rootAfter: null,
    offers: 0,
    minutes: [1, 2],
    ifItEndsHere: '',
  };
}

export async function roundContext(id: string): Promise<RoundContext> {
  const round = await needRound(id);
  const handset = await needHandset(round.handsetId);
  const [subject, bench] = [await readSubject(handset), await readBench()];
  const { typed } = subject.facts;
  const seat = rootOf(subject, bench);
  const home = recoveryOf(subject, bench, seat).home;
  const rows = await stepsOf([id]);
  return {
    round,
    plan: JSON.parse(round.plan) as KeptPlan,
    handset,
    facts: typed,
    known: subject.facts,
    subject,
    bench,
    rootPartition: seat.partition ?? handset.rootPartition,
    recoveryHome: home === 'own partition' ? 'recovery' : home,
    slotCount: typed.slotCount === 1 ? 1 : 2,
    steps: rows.flatMap((row) =>
      isStepKey(row.key)
        ? [{ ...row, stepKey: row.key, planned: plannedOf({ ...row, stepKey: row.key }, typed.fingerprint ?? '', typed.currentSlot) }]
        : [],
    ),
  };
}

export const goalOf = ({ kind }: Readonly<RoundRow>) => kind as GoalId;

export function aboutStep(context: RoundContext, { planned }: Pick<RoundStepRow, 'planned'>): StepAbout {
  const told = context.known.value('unlockPath');
  const { facts, recoveryHome, rootPartition, handset, round } = context;
  const unlockPath: StepAbout['unlockPath'] = told === 'mailed code' || told === 'key chord' || told === 'none' ? told : 'command';
  const parts = { rootPartition, recoveryHome, slotCount: facts.slotCount, unlockPath };
  const own = recoveriesShelved(context.subject, context.bench)[0];
  return stepAbout(handset.name, parts, own ? `${own.name} ${own.version}` : null, round.target, planned, context.plan.modulesOff ?? []);
}

export const stockOf = ({ bench }: RoundContext, partition: string | null, build: string) =>
  bench.images.find((image) => image.role === 'stock' && image.partition === partition && image.fingerprint === build) ?? null;

/** A proved patched image of a build whose stock image is in the vault too. */
export function patchedOf(context: RoundContext, build: string): Readonly<ImageRow> | null {
  const stock = stockOf(context, context.rootPartition, build);
  return (
    context.bench.images.find(
      (image) =>
        image.role === 'patched' &&
        image.proof !== null &&
        image.partition === context.rootPartition &&
        image.fingerprint === build &&
        image.stockSha256 === stock?.sha256,
    ) ?? null
  );
}

/** The stock image that a step's slot goes back to. */
export const stockFor = (context: RoundContext, step: Pick<RoundStepRow, 'planned'>) => stockOf(context, context.rootPartition, step.planned.build);

/** The one image that a step writes, from the vault; null where it writes none, several, or the vault has not got it. */
export function imageOf(context: RoundContext, step: Pick<RoundStepRow, 'stepKey' | 'planned'>): Readonly<ImageRow> | null {
  const { build } = step.planned;
  switch (step.stepKey) {
    case 'write-root':
    case 'start-once':
    case 'make-lasting':
    case 'root-zip':
    case 'zip-inside':
      return patchedOf(context, build);
    case 'patch-other-slot':
      return patchedOf(context, context.round.target ?? build);
    case 'write-stock':
    case 'stock-back':
      return stockOf(context, context.rootPartition, build);
    case 'write-stock-recovery':
      return stockOf(context, context.recoveryHome, build);
    case 'older-bootloader':
      return stockOf(context, 'bootloader', context.round.target ?? build);
    case 'write-recovery':
    case 'recovery-once':
    case 'recovery-inside': {
      const own = recoveriesShelved(context.subject, context.bench)[0];
      return context.bench.images.find((image) => image.sha256 === own?.sha256) ?? null;
    }
    default:
      return null;
  }
}

/** The images that a step writes as parts of a whole build, as far as the vault has them. */
export function wholeOf(context: RoundContext, step: Pick<RoundStepRow, 'stepKey' | 'planned'>): Readonly<ImageRow>[] {
  if (!(WHOLE_WRITES as readonly StepKey[]).includes(step.stepKey)) return [];
  const build = context.round.target ?? step.planned.build;
  const patched = patchedOf(context, build);
  return [...context.bench.images.filter((image) => image.role === 'stock' && image.fingerprint === build), ...(patched ? [patched] : [])];
}

/** The partition that a step puts its image on: a recovery of one's own goes where recovery lives, whatever a bare header is taken for. */
export function partitionFor(
  { recoveryHome }: RoundContext,
  { stepKey }: Pick<RoundStepRow, 'stepKey'>,
  image: Pick<ImageRow, 'partition'>,
): string | null {
  return stepKey === 'write-recovery' || stepKey === 'recovery-inside' ? recoveryHome : image.partition;
}

/** The step that comes next, whose plan says how the handset should be when this one is over. */
export function after({ steps }: RoundContext, step: Pick<RoundStepRow, 'position'>): PlannedAbout | null {
  return steps.find((one) => one.position > step.position)?.planned ?? null;
}

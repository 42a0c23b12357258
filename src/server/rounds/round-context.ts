import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import { EternoError } from '@/core/errors';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import type { NewStep, Round, RoundStep } from '@/core/rounds/round';
import type { OfBuild, SentImage } from '@/core/steps/deed';
import { DEEDS, CUSTOM_RECOVERY } from '@/core/steps/deeds';
import type { StepAbout } from '@/core/steps/step-kind';
import type { HandsetRow } from '../db/models';
import { findRound, stepsOf } from '../repositories/round-repository';
import { needHandset, readBench, readSubject } from '../services/bench-reading';
import type { KnownFacts } from '../services/fact-service';
import type { Bench } from '@/core/bench/bench';
import type { KnownHandset } from '../services/bench-reading';
import { recoveriesShelved, recoveryOf, rootOf, rootToBothSlots } from '@/core/bench/judgements';
import { holdsRecovery, patchedWithRecoveryOf, rebuiltRecoveryOf } from '@/core/bench/recovery-image';
import { rootImageOf, stockImageOf } from '@/core/bench/root-image';
import { packageOfRound } from './package-parts';
import { stepAbout } from '@/core/steps/step-about';

export async function needRound(id: string): Promise<Round> {
  const round = await findRound(id);
  if (!round) throw new EternoError('not-found', 'There is no such round.');
  return round;
}

/** Everything a round's page and its actions work from, read together. */
export interface RoundContext {
  readonly round: Round;
  readonly handset: Readonly<HandsetRow>;
  readonly facts: HandsetFacts;
  readonly known: KnownFacts;
  readonly subject: KnownHandset;
  readonly bench: Bench;
  readonly rootPartition: string | null;
  /** The partition that its recovery lives in; null where that was never read. */
  readonly recoveryHome: 'recovery' | 'boot' | 'vendor_boot' | null;
  readonly slotCount: 1 | 2;
  readonly steps: readonly RoundStep[];
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
    handset,
    facts: typed,
    known: subject.facts,
    subject,
    bench,
    rootPartition: seat.partition ?? handset.rootPartition,
    recoveryHome: home === 'own partition' ? 'recovery' : home,
    slotCount: typed.slotCount === 1 ? 1 : 2,
    steps: rows.map((step) => withKnown(step, typed.fingerprint ?? '', typed.currentSlot)),
  };
}

/** A step of before there were plans is about what runs. */
const withKnown = (step: RoundStep, build: string, slot: string | null): RoundStep =>
  step.planned.build === ''
    ? { ...step, planned: { ...step.planned, build, slot: slot === 'b' ? 'b' : 'a' } }
    : step;

export function aboutStep(
  context: RoundContext,
  { key, planned }: Pick<NewStep, 'key' | 'planned'>,
): StepAbout {
  const told = context.known.value('unlockPath');
  const { facts, recoveryHome, rootPartition, handset, round } = context;
  const unlockPath: StepAbout['unlockPath'] =
    told === 'mailed code' || told === 'key chord' || told === 'none' ? told : 'command';
  const own = recoveriesShelved(context.subject, context.bench)[0];
  const parts = {
    rootPartition,
    recoveryHome,
    slotCount: facts.slotCount,
    unlockPath,
    rootOnBoth: rootOnBoth(context, { key, planned }),
    install: packageOfRound(context)?.fileName ?? null,
    ownRecovery: own !== undefined && context.steps.some(({ key: one }) => CUSTOM_RECOVERY.includes(one)),
    ways: context.subject.ways,
  };
  return stepAbout(
    handset.name,
    parts,
    own ? `${own.name} ${own.version}` : null,
    round.target,
    planned,
    context.round.plan,
  );
}

export const stockOf = ({ bench }: RoundContext, partition: string | null, build: string) =>
  stockImageOf(bench, partition, build);

/** Root's image of a build: proved here, or judged against its stock image. */
export const patchedOf = ({ bench, rootPartition }: RoundContext, build: string): KeptImage | null =>
  rootImageOf(bench, rootPartition, build);

/** The stock image that a step's slot goes back to. */
export const stockFor = (context: RoundContext, step: Pick<NewStep, 'planned'>) =>
  stockOf(context, context.rootPartition, step.planned.build);

/** Whether a step that writes root's partition from outside writes it on both slots. */
export const rootOnBoth = (
  { subject, bench, rootPartition }: RoundContext,
  { key, planned }: Pick<NewStep, 'key' | 'planned'>,
): boolean =>
  (key === 'write-root' || key === 'write-stock') &&
  rootToBothSlots(subject, bench, { partition: rootPartition }, planned.build, planned.slot);

/** The slot that a step is about, as the slot map has it: null on a handset with one. */
export const slotOf = (
  { slotCount }: Pick<RoundContext, 'slotCount'>,
  { planned }: Pick<NewStep, 'planned'>,
) => (slotCount === 2 ? planned.slot : null);

/** The build that a step is about. */
export const buildOfStep = (
  { round }: Pick<RoundContext, 'round'>,
  { planned }: Pick<NewStep, 'planned'>,
  of: OfBuild,
): string => (of === 'the target' ? (round.target ?? planned.build) : planned.build);

/**
 * The one image that a step sends or puts, from the vault; null where it is none, several, or the vault has
 * not got it.
 */
export function imageOf(context: RoundContext, step: NewStep): KeptImage | null {
  const { image } = DEEDS[step.key];
  return image === undefined ? null : sentImage(context, step, image);
}

/** The image of the vault that is named at a step; null where the vault has not got it. */
export function sentImage(context: RoundContext, step: NewStep, image: SentImage): KeptImage | null {
  const build = buildOfStep(context, step, image.of);
  switch (image.what) {
    case 'patched':
      return keepsRecoveryAt(context, step)
        ? patchedWithRecoveryOf(context.bench, context.rootPartition, build, ownRecovery(context))
        : patchedOf(context, build);
    case 'stock':
      return stockOf(context, context.rootPartition, build);
    case 'stock recovery':
      return stockOf(context, context.recoveryHome, build);
    case 'stock bootloader':
      return stockOf(context, 'bootloader', build);
    case 'own recovery':
      return recoveryImage(context, step, build);
  }
}

/** Hash of the recovery of the person's own that the round works with; null where the shelf has none for it. */
export const ownRecovery = ({ subject, bench }: RoundContext): string | null =>
  recoveriesShelved(subject, bench)[0]?.sha256 ?? null;

/** From memory it starts as it is; where it shares its partition, it is written inside that build's image. */
function recoveryImage(context: RoundContext, { key }: NewStep, build: string): KeptImage | null {
  const { bench, recoveryHome } = context;
  const own = ownRecovery(context);
  return DEEDS[key].writes === null || recoveryHome === 'recovery' || recoveryHome === null
    ? (bench.images.find(({ sha256 }) => sha256 === own) ?? null)
    : rebuiltRecoveryOf(bench, recoveryHome, build, own);
}

/** Root and recovery live in one ramdisk, and a recovery of the person's own lies there when the step begins. */
function keepsRecoveryAt(context: RoundContext, step: NewStep): boolean {
  const { recoveryHome, rootPartition, steps, subject, bench, slotCount } = context;
  if (recoveryHome !== rootPartition || recoveryHome === 'recovery' || rootPartition === null) return false;
  const at = steps.findIndex(({ key, planned }) => key === step.key && planned === step.planned);
  const last = steps
    .slice(0, Math.max(at, 0))
    .findLast(({ key }) => DEEDS[key].writes !== null && DEEDS[key].image?.what !== 'patched');
  if (last) return DEEDS[last.key].image?.what === 'own recovery';
  const slot = slotCount === 2 ? step.planned.slot : '-';
  const lies = subject.cells.find((cell) => cell.partition === rootPartition && cell.slot === slot);
  return holdsRecovery(bench, lies?.sha256 ?? null);
}

/**
 * The partition that a step puts its image on: a custom recovery goes where recovery lives, whatever a
 * bare header is taken for.
 */
export function partitionFor(
  { recoveryHome }: RoundContext,
  { key }: Pick<NewStep, 'key'>,
  image: Pick<KeptImage, 'partition'>,
): string | null {
  return CUSTOM_RECOVERY.includes(key) ? recoveryHome : image.partition;
}

/** The steps before one. */
export const before = ({ steps }: RoundContext, step: Pick<RoundStep, 'id'>): readonly RoundStep[] =>
  steps.slice(
    0,
    steps.findIndex(({ id }) => id === step.id),
  );

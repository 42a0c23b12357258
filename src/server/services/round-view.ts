import 'server-only';
import type { Evidence, ImageBrief, RoundView, SignOffClaim, StepView } from '@/contracts/round-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import type { Check, Override } from '@/core/gates/check';
import { writeGates } from '@/core/gates/write-gates';
import { LANE_STEPS, ONE_IMAGE_ONCE } from '@/core/lanes/one-image-once';
import type { StepAbout, StepKey } from '@/core/lanes/steps';
import type { WayBack } from '@/core/vault/way-back';
import { wayBackOf } from '@/core/vault/way-back';
import type { ProofLine } from '@/core/patch/prove-patch';
import type { HandsetRow, ImageRow, RoundRow, StepRow } from '../db/models';
import { findRound, stepsOf } from '../repositories/round-repository';
import { listImages, listKits } from '../repositories/image-repository';
import { isWhole } from '../vault/vault';
import { needHandset, readBench, readSubject } from './bench-service';
import type { KnownFacts } from './fact-service';
import { knownFacts } from './fact-service';
import { rootOf, wayBackInput } from './judgements';
import { listJobs } from './jobs';
import type { RoundImages } from './round-settling';
import { roundImages } from './round-settling';

export async function needRound(id: string): Promise<Readonly<RoundRow>> {
  const round = await findRound(id);
  if (!round) throw new EternoError('not-found', 'There is no such round.');
  return round;
}

/** Everything a round's page and its actions work from, read together. */
export interface RoundContext {
  readonly round: Readonly<RoundRow>;
  readonly handset: Readonly<HandsetRow>;
  readonly facts: HandsetFacts;
  readonly known: KnownFacts;
  readonly steps: readonly Readonly<StepRow>[];
  readonly images: RoundImages;
  readonly about: StepAbout;
}

export async function roundContext(id: string): Promise<RoundContext> {
  const round = await needRound(id);
  const handset = await needHandset(round.handsetId);
  const known = await knownFacts(handset.id);
  const facts = known.typed;
  return {
    round,
    handset,
    facts,
    known,
    steps: await stepsOf([id]),
    images: roundImages(await listImages(), facts.fingerprint, handset.rootPartition),
    about: {
      handset: handset.name,
      partition: handset.rootPartition ?? 'the partition that carries root',
      slot: facts.currentSlot ?? '',
      build: facts.buildId ?? 'the installed build',
    },
  };
}

function partitionSize(facts: HandsetFacts, partition: string | null): number | null {
  if (partition === null) return null;
  const slot = facts.currentSlot;
  return (slot === null ? undefined : facts.partitions[`${partition}_${slot}`]?.size) ?? facts.partitions[partition]?.size ?? null;
}

/** The gates before a write of this round's image, with their evidence as it stands now. */
export async function gatesOf({ handset, facts, known, images }: RoundContext, which: 'patched' | 'stock'): Promise<Check[]> {
  const image: Readonly<ImageRow> | null = which === 'patched' ? images.patched : images.stock;
  const proof = image?.proof ? (JSON.parse(image.proof) as ProofLine[]) : null;
  const kit = image?.kit ? (await listKits()).find((row) => `${row.kitId} ${row.version}` === image.kit) : undefined;
  const supports = kit ? (JSON.parse(kit.supports) as { sdk: [number, number] | null }) : null;
  return writeGates({
    image: image && {
      partition: image.partition,
      role: image.role,
      fingerprint: image.fingerprint,
      patchLevel: image.patchLevel,
      sizeBytes: image.sizeBytes,
      proof: proof && { held: proof.filter((line) => line.ok).length, of: proof.length },
    },
    stockKept: images.stock !== null && (await isWhole('images', images.stock.sha256)),
    rootPartition: handset.rootPartition,
    root: rootOf({ facts: known }, await readBench()),
    contradictions: known.contradictions.map(({ sentence }) => sentence),
    installed: facts,
    unlocked: facts.unlocked,
    activeSlot: facts.currentSlot,
    slotCount: facts.slotCount,
    batteryOk: facts.batteryOk,
    partitionBytes: partitionSize(facts, handset.rootPartition),
    kitSupports: kit ? { name: `${kit.name} ${kit.version}`, sdk: supports?.sdk ?? null } : null,
    sdk: facts.sdk,
  });
}

function brief(image: Readonly<ImageRow> | null): ImageBrief | null {
  if (!image) return null;
  const { sha256, partition, kit, sizeBytes } = image;
  return { sha256, partition, kit, sizeBytes, build: image.fingerprint ? (splitFingerprint(image.fingerprint)?.id ?? null) : null };
}

export const evidenceOf = (step: Readonly<StepRow>) => JSON.parse(step.evidence) as Evidence[];

const CLAIMS: readonly (readonly [string, StepKey])[] = [
  ['The build that runs is known', 'read-facts'],
  ['The image belongs to this build and is proved', 'patch-image'],
  ['The image is on the handset', 'write-image'],
  ['The handset starts', 'restart'],
  ['Root works', 'prove-root'],
];

export function signOffOf(steps: readonly Readonly<StepRow>[]): SignOffClaim[] {
  return CLAIMS.map(([claim, key]) => ({ claim, evidence: steps.filter((step) => step.key === key && step.state === 'done').flatMap(evidenceOf) }));
}

async function wayBackNow(handset: Readonly<HandsetRow>): Promise<WayBack> {
  const [subject, bench] = [await readSubject(handset), await readBench()];
  return wayBackOf(wayBackInput(subject, bench, rootOf(subject, bench)));
}

export async function roundView(id: string): Promise<RoundView> {
  const context = await roundContext(id);
  const { round, handset, facts, images, about } = context;
  const steps = context.steps.map((row): StepView => {
    const step = LANE_STEPS.find((one) => one.key === row.key)!;
    const { id: stepId, state, startedAt, endedAt, actor } = row;
    return {
      id: stepId,
      key: step.key,
      stage: step.stage,
      state,
      text: step.text(about),
      seconds: step.seconds,
      mode: step.mode,
      writes: step.writes,
      startedAt,
      endedAt,
      actor,
      evidence: evidenceOf(row),
    };
  });
  const current = steps.findIndex((step) => step.state !== 'done');
  return {
    id,
    version: round.version,
    title: round.title,
    lane: ONE_IMAGE_ONCE.title,
    state: round.state,
    handset: { id: handset.id, name: handset.name, link: handset.link, build: facts.buildId, slot: about.slot },
    partition: about.partition,
    steps,
    current: round.state === 'open' && current >= 0 ? current : null,
    stock: brief(images.stock),
    patched: brief(images.patched),
    checks: steps[current]?.stage === 'Prepare' || steps[current]?.key === 'write-image' ? await gatesOf(context, 'patched') : [],
    overrides: JSON.parse(round.overrides) as Override[],
    signOff: signOffOf(context.steps),
    wayBack: await wayBackNow(handset),
    runningJob: (await listJobs()).find((job) => job.roundId === id && job.state === 'running')?.id ?? null,
    openedAt: round.openedAt,
    closedAt: round.closedAt,
  };
}

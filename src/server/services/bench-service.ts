import 'server-only';
import { lowerFirst } from '@/core/words/sentence';
import type { BenchRow, HandsetSummary, PutAwayView } from '@/contracts/handset-view';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { RoundStep } from '@/core/rounds/round';
import { STEP_KINDS } from '@/core/steps/step-table';
import type { RootState } from '@/core/schedule/continuity';
import { rootSpans } from '@/core/schedule/continuity';
import { whatComesNext } from '@/core/schedule/what-comes-next';
import { wayBackOf } from '@/core/vault/way-back';
import { appendEvent } from '../repositories/event-repository';
import {
  findBySerial,
  insertFacts,
  insertHandset,
  listHandsets,
  updateHandset,
} from '../repositories/handset-repository';
import { listImages, listPackages } from '../repositories/image-repository';
import { waitOf } from './calendar-service';
import { now } from './clock';
import { applyFacts, firstFacts, knownFacts, readText } from './fact-service';
import { needHandset, readBench, readSubjects } from './bench-reading';
import type { Bench } from '@/core/bench/bench';
import type { KnownHandset } from './bench-reading';
import { nextBuild, readinessOf, rootOf, wayBackInput } from '@/core/bench/judgements';
import { tellRoot } from './root-history';
import { stepAbout } from '@/core/steps/step-about';

export function benchRow(subject: KnownHandset, bench: Bench): BenchRow {
  const wait = waitOf(subject, bench);
  const waits = wait && !wait.over ? wait.says : null;
  const { handset, facts, root, history } = subject;
  const { typed } = facts;
  const round = history.rounds.find(({ state }) => state === 'open');
  const product = typed.fingerprint ? splitFingerprint(typed.fingerprint)?.product : null;
  const own = bench.builds.filter((build) => build.product === product);
  const next = nextBuild(subject, bench);
  const rootAt = rootOf(subject, bench);
  const current = history.openSteps.find((step) => step.state !== 'done');
  const stepTitle = current
    ? titleOf(current, handset.name, rootAt.partition, round!.target, typed)
    : 'close it';
  const newest = own.at(-1) ?? null;
  return {
    id: handset.id,
    name: handset.name,
    model: handset.model,
    link: handset.link,
    profile: handset.profile,
    build: typed.buildId,
    root,
    spans: rootSpans(history.rootChanges, now()),
    builds: own
      .filter((build) => build.publishedAt <= now())
      .map((build) => ({ buildId: build.buildId, at: build.publishedAt })),
    begun: history.rounds.map(({ title, openedAt }) => ({ title, at: openedAt })),
    waits,
    waiting: next && { buildId: next.buildId, at: next.publishedAt },
    readiness: readinessOf(subject, bench, rootAt),
    next: whatComesNext({
      root,
      openRound: round ? { title: round.title, step: lowerFirst(stepTitle) } : null,
      installedBuild: typed.buildId,
      newest: newest && { buildId: newest.buildId, publishedAt: newest.publishedAt },
      unlocked: typed.unlocked,
      rootPartition: rootAt.partition,
      contradiction: facts.contradictions[0] ?? null,
      waits,
      ended: history.openClocks
        .filter((clock) => clock.endsAt <= now())
        .map(({ kind, note }) => ({ what: kind, note })),
      now: now(),
    }),
    roundId: round?.id ?? null,
    wayBack: wayBackOf(wayBackInput(subject, bench, rootAt)),
    contradictions: facts.contradictions,
  };
}

function titleOf(
  { key, planned }: RoundStep,
  name: string,
  partition: string | null,
  target: string | null,
  typed: KnownHandset['facts']['typed'],
): string {
  const known = {
    rootPartition: partition,
    recoveryHome: null,
    slotCount: typed.slotCount,
    unlockPath: null,
  };
  const at = planned.build === '' ? { ...planned, build: typed.fingerprint ?? '' } : planned;
  return STEP_KINDS[key].text(stepAbout(name, known, null, target, at)).title;
}

export async function benchRows(): Promise<BenchRow[]> {
  const bench = await readBench();
  return (await readSubjects()).map((subject) => benchRow(subject, bench));
}

/** For the shelf: the least that a tab needs. */
export async function handsetSummaries(): Promise<HandsetSummary[]> {
  return (await readSubjects()).map(({ handset: { id, name, model, link, profile }, facts, root }) => ({
    id,
    name,
    model,
    link,
    profile,
    build: facts.typed.buildId,
    root,
  }));
}

/** Handsets that are put away, the last one first. */
export async function putAwayHandsets(): Promise<PutAwayView[]> {
  return (await listHandsets())
    .flatMap(({ id, name, model, putAwayAt }) => (putAwayAt === null ? [] : [{ id, name, model, putAwayAt }]))
    .sort((a, b) => b.putAwayAt - a.putAwayAt);
}

/**
 * Puts a handset on the bench from what it printed. One whose serial is known is the one that is there: what
 * it printed is kept with it.
 * @throws {EternoError} `bad-field` when the text says nothing
 */
export async function addHandset(name: string, text: string): Promise<string> {
  const read = readText(text);
  const { facts } = read;
  const known = facts.serial === null ? null : await findBySerial(facts.serial);
  if (known) {
    await applyFacts(known.id, text, 'pasted');
    await updateHandset(known.id, { putAwayAt: null });
    return known.id;
  }
  const row = await insertHandset({
    name,
    model: facts.model ?? facts.device ?? 'model not known',
    rootPartition: null,
    slotCount: facts.slotCount,
    link: 'hand',
    profile: null,
    createdAt: now(),
  });
  await firstFacts(row.id, read);
  await begun(row.id, name, facts.unlocked === false ? 'stock' : 'unknown');
  return row.id;
}

/**
 * The same with nothing to paste: what is typed is marked as said, and a round asks for the rest.
 * @param build build number as the person reads it; empty where they don't know it
 */
export async function addTypedHandset(name: string, model: string, build: string): Promise<string> {
  const row = await insertHandset({
    name,
    model,
    rootPartition: null,
    slotCount: null,
    link: 'hand',
    profile: null,
    createdAt: now(),
  });
  if (build !== '')
    await insertFacts(row.id, [{ key: 'buildId', value: build }], {
      source: 'typed',
      witness: 'person',
      at: now(),
    });
  await begun(row.id, name, 'unknown');
  return row.id;
}

/** It is on the bench: said in the log, with what is known of its root. */
async function begun(handsetId: string, name: string, root: RootState): Promise<void> {
  await appendEvent({
    at: now(),
    handsetId,
    roundId: null,
    kind: 'handset-added',
    data: { version: 1, name },
  });
  await tellRoot(handsetId, null, root, 'put on the bench');
  await settleRootPartition(handsetId);
}

/**
 * Writes down which partition carries root, as the evidence of now has it; an open round keeps what it began
 * with.
 */
export async function settleRootPartition(handsetId: string): Promise<void> {
  const handset = await needHandset(handsetId);
  const { partition } = rootOf(
    { facts: await knownFacts(handsetId) },
    { images: await listImages(), packages: await listPackages() },
  );
  if (partition !== null && partition !== handset.rootPartition)
    await updateHandset(handsetId, { rootPartition: partition });
}

import 'server-only';
import type { BenchRow, HandsetDetail, HandsetSummary, SlotContentView, WayBack } from '@/contracts/handset-view';
import { EternoError } from '@/core/errors';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { rootPartitionOf } from '@/core/fit/root-partition';
import { LANE_STEPS } from '@/core/lanes/one-image-once';
import type { RootChange, RootState } from '@/core/schedule/continuity';
import { rootSpans } from '@/core/schedule/continuity';
import { whatComesNext } from '@/core/schedule/what-comes-next';
import type { BuildRow, HandsetRow, ImageRow } from '../db/models';
import { appendEvent, listEvents } from '../repositories/event-repository';
import { findHandset, insertFacts, insertHandset, listHandsets, readSecret, slotContentsOf, writeSecret } from '../repositories/handset-repository';
import { listBuilds, listImages } from '../repositories/image-repository';
import { listRounds, openRoundOf, stepsOf } from '../repositories/round-repository';
import { now } from './clock';
import { currentFacts, factViews, readText, typedFacts } from './fact-service';

export async function needHandset(id: string): Promise<Readonly<HandsetRow>> {
  const handset = await findHandset(id);
  if (!handset) throw new EternoError('not-found', 'This handset is not on the bench.');
  return handset;
}

/** Every change of root that the log knows of a handset. */
export async function rootChanges(handsetId: string): Promise<RootChange[]> {
  return (await listEvents({ handsetId, kind: 'root' })).map((event) => ({
    at: event.at,
    state: (JSON.parse(event.data) as { state: RootState }).state,
  }));
}

export async function tellRoot(handsetId: string, roundId: string | null, state: RootState, why: string): Promise<void> {
  if ((await rootChanges(handsetId)).at(-1)?.state === state) return;
  await appendEvent({ at: now(), handsetId, roundId, kind: 'root', data: { version: 1, state, why } });
}

/** Stock image of a build on the partition that carries root, if the vault has it. */
export function stockImageOf(images: readonly Readonly<ImageRow>[], fingerprint: string | null, partition: string | null): Readonly<ImageRow> | null {
  if (fingerprint === null || partition === null) return null;
  return images.find((image) => image.role === 'stock' && image.fingerprint === fingerprint && image.partition === partition) ?? null;
}

function wayBackOf(facts: HandsetFacts, partition: string | null, images: readonly Readonly<ImageRow>[]): WayBack {
  if (facts.fingerprint === null) return { open: false, sentence: 'unknown: its build is not known' };
  if (facts.unlocked === false) return { open: true, sentence: 'locked: it is stock' };
  const stock = stockImageOf(images, facts.fingerprint, partition);
  if (!stock) return { open: false, sentence: 'stock image missing' };
  return { open: true, sentence: '2 steps, about 1 min' };
}

async function benchRow(
  handset: Readonly<HandsetRow>,
  builds: readonly Readonly<BuildRow>[],
  images: readonly Readonly<ImageRow>[],
): Promise<BenchRow & { known: HandsetFacts }> {
  const facts = typedFacts(await currentFacts(handset.id));
  const [changes, round] = [await rootChanges(handset.id), await openRoundOf(handset.id)];
  const spans = rootSpans(changes, now());
  const root = changes.at(-1)?.state ?? 'unknown';
  const product = facts.fingerprint ? splitFingerprint(facts.fingerprint)?.product : null;
  const own = builds.filter((build) => build.product === product);
  const newest = own.at(-1) ?? null;
  const steps = round ? await stepsOf([round.id]) : [];
  const current = steps.find((step) => step.state !== 'done');
  const about = { handset: handset.name, partition: handset.rootPartition ?? '', slot: facts.currentSlot ?? '', build: facts.buildId ?? '' };
  const stepTitle = LANE_STEPS.find((step) => step.key === current?.key)?.text(about).title ?? 'close it';
  return {
    id: handset.id,
    name: handset.name,
    model: handset.model,
    link: handset.link,
    build: facts.buildId,
    root,
    spans,
    builds: own.filter((build) => build.publishedAt <= now()).map((build) => ({ buildId: build.buildId, at: build.publishedAt })),
    waiting: newest && newest.buildId !== facts.buildId ? { buildId: newest.buildId, at: newest.publishedAt } : null,
    next: whatComesNext({
      root,
      openRound: round ? { title: round.title, step: lowerFirst(stepTitle) } : null,
      installedBuild: facts.buildId,
      newest: newest && { buildId: newest.buildId, publishedAt: newest.publishedAt },
      unlocked: facts.unlocked,
      rootPartition: handset.rootPartition,
      now: now(),
    }),
    roundId: round?.id ?? null,
    wayBack: wayBackOf(facts, handset.rootPartition, images),
    known: facts,
  };
}

const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

export async function benchRows(): Promise<BenchRow[]> {
  const [handsets, builds, images] = [await listHandsets(), await listBuilds(), await listImages()];
  const rows: BenchRow[] = [];
  for (const handset of handsets) {
    const { known, ...row } = await benchRow(handset, builds, images);
    rows.push(row);
  }
  return rows;
}

/** For the shelf: the least that a tab needs. */
export async function handsetSummaries(): Promise<HandsetSummary[]> {
  const out: HandsetSummary[] = [];
  for (const { id, name, model, link } of await listHandsets()) {
    const facts = typedFacts(await currentFacts(id));
    out.push({ id, name, model, link, build: facts.buildId, root: (await rootChanges(id)).at(-1)?.state ?? 'unknown' });
  }
  return out;
}

async function slotViews(handsetId: string, images: readonly Readonly<ImageRow>[]): Promise<SlotContentView[]> {
  return (await slotContentsOf(handsetId)).map(({ slot, partition, sha256, certainty, reason, at }) => {
    const image = images.find((row) => row.sha256 === sha256);
    const build = image?.fingerprint ? (splitFingerprint(image.fingerprint)?.id ?? null) : null;
    return { slot, partition, sha256, certainty, reason, at, role: image?.role ?? null, build };
  });
}

export async function handsetDetail(id: string): Promise<HandsetDetail> {
  const handset = await needHandset(id);
  const images = await listImages();
  const row = await benchRow(handset, await listBuilds(), images);
  const serial = await readSecret(id, 'serial');
  const partitions = [...new Set(Object.keys(row.known.partitions).map((name) => name.replace(/_[ab]$/, '')))];
  return {
    ...row,
    facts: factViews(await currentFacts(id)),
    rootPartition: rootPartitionOf({ partitions, firstApiLevel: row.known.firstApiLevel }),
    slots: await slotViews(id, images),
    rounds: (await listRounds(id)).map(({ id: roundId, title, state, openedAt, closedAt }) => ({ id: roundId, title, state, openedAt, closedAt })),
    serialEnd: serial ? serial.slice(-4) : null,
  };
}

/** Puts a handset on the bench from what it printed. @throws {EternoError} `bad-field` when the text says nothing */
export async function addHandset(name: string, text: string): Promise<string> {
  const { facts, flat } = readText(text);
  const partitions = [...new Set(Object.keys(facts.partitions).map((key) => key.replace(/_[ab]$/, '')))];
  const { partition } = rootPartitionOf({ partitions, firstApiLevel: facts.firstApiLevel });
  const row = await insertHandset({
    name,
    model: facts.model ?? facts.device ?? 'model not known',
    rootPartition: partition,
    slotCount: facts.slotCount,
    link: 'hand',
    createdAt: now(),
  });
  if (facts.serial !== null) await writeSecret(row.id, 'serial', facts.serial);
  await insertFacts(row.id, flat, 'pasted', now());
  await appendEvent({ at: now(), handsetId: row.id, roundId: null, kind: 'handset-added', data: { version: 1, name } });
  await tellRoot(row.id, null, facts.unlocked === false ? 'stock' : 'unknown', 'put on the bench');
  return row.id;
}

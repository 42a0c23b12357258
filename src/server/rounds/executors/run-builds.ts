import 'server-only';
import { randomUUID } from 'node:crypto';
import type { KeptImage } from '@/core/bench/bench';
import type { WholePart } from '@/core/bench/whole-build';
import { turnsLeft, wholePackage, writeTurns } from '@/core/bench/whole-build';
import type { ByteSource } from '@/core/bytes/byte-source';
import type { Proved } from '@/core/bytes/hashed-source';
import { provedPieces } from '@/core/bytes/hashed-source';
import { EternoError } from '@/core/errors';
import type { SetPart } from '@/core/link/handset-link';
import type { OpenedPackage, TakenImage } from '@/core/packages/package-report';
import { writtenParts } from '@/core/packages/region-part';
import { ROLE_WORDS } from '@/core/packages/set-roles';
import type { Evidence } from '@/core/rounds/evidence';
import { DEEDS } from '@/core/steps/deeds';
import { fileSink } from '@/platform/node/file-sink';
import { nodeDigests } from '@/platform/node/node-digests';
import { recordPackage } from '../../repositories/image-repository';
import { incomingPath } from '../../services/incoming';
import { forgetHeld, withBuildPackage } from '../held-package';
import { buildParts } from '../build-parts';
import { buildOfStep, slotOf } from '../round-context';
import { needJudged } from './judged-write';
import { slotsOfPart } from '../step-writes';
import { recordAfter } from './tamper-record';
import type { Executor, Executors, StepRun } from './running';
import { modeNow, named, readyListed, readyToWrite, stillWriting, strong } from './running';
import { backInReach, needImage, provedAs, writeSource } from './run-writes';
import { openInVault } from '../../vault/vault';

/*
 * Whole builds, partition by partition or as a set. What the vault keeps is sent from there; what is too
 * large to keep is taken out of the package into one file on this computer's disk, verified, sent and thrown
 * away, one image at a time (docs/architecture.md, "A whole build").
 */

const targetOf = (running: StepRun) => buildOfStep(running, running.step, 'the target');

/** @throws {EternoError} `refused` where an image is missing */
function partsOf(running: StepRun): WholePart[] {
  const parts = buildParts(running, running.step);
  if (parts.length === 0) throw new EternoError('refused', 'No package of all of this build was opened.');
  for (const { kept, passes } of parts) if (!passes) needImage(kept);
  return parts;
}

/** An image ready to be read, wherever it comes from. */
interface OpenPart {
  readonly source: ByteSource;
  readonly proved: Proved;
  readonly close: () => Promise<void>;
}
type OpenEach = (part: WholePart) => Promise<OpenPart>;

async function fromVault(image: KeptImage): Promise<OpenPart> {
  const source = await openInVault('images', image.sha256);
  return { source, proved: provedAs(image), close: () => source.close() };
}

/** Takes one image out of the package, verified; it lies on disk until it is closed. */
async function fromPackage(running: StepRun, opened: OpenedPackage, partition: string): Promise<OpenPart> {
  const sink = fileSink(incomingPath(randomUUID()));
  try {
    const taken = await opened.take(partition, sink, running.watch);
    await learnHash(running, partition, taken);
    const source = { ...(await sink.readBack()), name: partition };
    const proved = { sha256: taken.sha256, digests: nodeDigests };
    return { source, proved, close: () => sink.discard() };
  } catch (thrown) {
    await sink.discard();
    throw thrown;
  }
}

/** Works with images of the vault, and with those that pass through from the package that is held. */
async function withParts<T>(
  running: StepRun,
  parts: readonly WholePart[],
  work: (open: OpenEach) => Promise<T>,
): Promise<T> {
  if (parts.every(({ kept }) => kept !== null)) return work(({ kept }) => fromVault(kept!));
  const whole = wholePackage(running.bench, targetOf(running))!;
  return withBuildPackage(running, whole, (opened) =>
    work(({ kept, partition }) => (kept ? fromVault(kept) : fromPackage(running, opened, partition))),
  );
}

/** A package that does not state an image's hash is told it once the image was taken out whole. */
async function learnHash(running: StepRun, partition: string, { sha256 }: TakenImage): Promise<void> {
  const whole = wholePackage(running.bench, targetOf(running));
  if (!whole || whole.report.images.every((one) => one.partition !== partition || one.sha256 !== null))
    return;
  const images = whole.report.images.map((one) => (one.partition === partition ? { ...one, sha256 } : one));
  await recordPackage({ ...whole, report: { ...whole.report, images } });
}

/** Whether this round has written the image there already: a step that was stopped goes on behind it. */
const liesThere = (
  { subject, round }: StepRun,
  { partition, sha256 }: WholePart,
  slot: string | null,
): boolean =>
  sha256 !== null &&
  subject.cells.some(
    (cell) =>
      cell.partition === partition &&
      cell.slot === (slot ?? '-') &&
      cell.sha256 === sha256 &&
      cell.at >= round.openedAt,
  );

/** From user-space flashing, where a stopped write left it, there is nothing to restart for. */
async function restartInto(running: StepRun, mode: 'bootloader' | 'userspace'): Promise<void> {
  if (mode === 'userspace' && (await modeNow(running)) === mode) return;
  await running.link.restart(mode);
  await backInReach(running, mode);
}

/** What the handset says is logical, on any slot that the part goes to. */
async function logicalOf(running: StepRun, parts: readonly WholePart[]): Promise<ReadonlySet<string>> {
  const logical = new Set<string>();
  for (const part of parts)
    for (const slot of slotsOfPart(running, running.step, part))
      if ((await running.link.variable(`is-logical:${named(part.partition, slot)}`)) === 'yes')
        logical.add(part.partition);
  return logical;
}

/** Partition by partition, in the order of `writeTurns`; what was written before it was stopped is left. */
const writeBuild: Executor = async (running) => {
  const { step } = running;
  const all = partsOf(running);
  const missing = (part: WholePart) =>
    slotsOfPart(running, step, part).filter((slot) => !liesThere(running, part, slot));
  const parts = all.filter((part) => missing(part).length > 0);
  const reading = await readyToWrite(running);
  const evidence: Evidence[] = [...reading.evidence];
  if (parts.length < all.length)
    evidence.push(
      strong(
        `written before it was stopped: ${all
          .filter((part) => !parts.includes(part))
          .map(({ partition }) => partition)
          .join(', ')}`,
      ),
    );
  const logical = await logicalOf(running, all);
  const turns = turnsLeft(
    writeTurns(all, (partition) => logical.has(partition)),
    (part) => !parts.includes(part),
  );
  await withParts(running, parts, async (open) => {
    for (const turn of turns) {
      if (turn.do === 'restart') await restartInto(running, turn.into);
      else
        evidence.push(
          ...(await writePart(running, await open(turn.part), turn.part, {
            slots: missing(turn.part),
            logical: logical.has(turn.part.partition),
          })),
        );
    }
  });
  await forgetHeld(running.round.id);
  return [...evidence, ...(await recordAfter(running, reading))];
};

async function writePart(
  running: StepRun,
  { source, proved, close }: OpenPart,
  { partition, kept }: WholePart,
  { slots, logical }: { readonly slots: readonly (string | null)[]; readonly logical: boolean },
): Promise<Evidence[]> {
  const evidence: Evidence[] = [];
  try {
    for (const slot of slots)
      evidence.push(await writeSource(running, source, proved, { partition, slot, logical }, kept));
  } finally {
    await close();
  }
  return evidence;
}

/** The images that were sent, by the part of the set that they come in. */
function partsSent(running: StepRun, sent: readonly string[]): string[] {
  const set = wholePackage(running.bench, targetOf(running))?.report.set;
  if (!set) return [];
  return writtenParts(set).flatMap(({ file, role, members }) => {
    const own = members.flatMap(({ partition }) =>
      partition !== null && sent.includes(partition) ? [partition] : [],
    );
    return own.length === 0 ? [] : [`${ROLE_WORDS[role]}, ${file}: ${own.join(', ')}`];
  });
}

/** Each image is in doubt from its last byte on until the handset says that it lies there. */
async function* partsOfSet(
  running: StepRun,
  parts: readonly WholePart[],
  open: OpenEach,
  slot: string | null,
): AsyncGenerator<SetPart> {
  const { watch } = running;
  for (const part of parts) {
    const { source, proved, close } = await open(part);
    const { partition, kept } = part;
    try {
      await needJudged(
        running,
        { image: kept, sizeBytes: source.size },
        { partition, slot, mode: 'download' },
      );
      yield {
        partition,
        sizeBytes: source.size,
        pieces: provedPieces(source, proved, watch.signal),
        onSent(doneBytes) {
          const sent = doneBytes === source.size;
          if (sent) {
            running.began(partition, slot);
            watch.hold(stillWriting('The set'));
          }
          watch.onProgress({ phase: sent ? 'write' : 'send', doneBytes, totalBytes: source.size });
        },
      };
      running.wrote(partition, slot, proved.sha256, 'predicted', 'written as part of a set');
    } finally {
      await close();
    }
  }
}

/** A matched set in download mode, part by part; its region part keeps or erases. */
const writeSet: Executor = async (running) => {
  const { link, step, watch } = running;
  const keepData = DEEDS[step.key].writes?.parts?.wipes !== true;
  const parts = partsOf(running);
  const { evidence } = await readyListed(running, 'download');
  const slot = slotOf(running, step);
  await withParts(running, parts, (open) => link.writeSet(partsOfSet(running, parts, open, slot), keepData))
    .catch((thrown: unknown) => {
      // the part that came last was judged before its first byte was written
      if (thrown instanceof EternoError && thrown.code === 'handset-refused') running.refused();
      throw thrown;
    })
    .finally(() => watch.hold(null));
  await forgetHeld(running.round.id);
  const sent = running.written.map(({ partition }) => partition);
  return [
    ...evidence,
    strong(`${sent.length} images written as one set, ${keepData ? 'data kept' : 'data erased'}`),
    ...partsSent(running, sent).map(strong),
  ];
};

export const BUILDS = {
  'write-build': writeBuild,
  'write-build-both': writeBuild,
  'write-build-patched': writeBuild,
  'write-set': writeSet,
  'write-set-patched': writeSet,
  'write-set-wipe': writeSet,
} as const satisfies Executors;

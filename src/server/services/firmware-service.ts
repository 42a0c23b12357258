import 'server-only';
import type {
  FileMemory,
  HandsetFit,
  PackageJudgement,
  PristineHandset,
  PristineView,
  SeenPackages,
} from '@/contracts/firmware-view';
import { fitPackage, isForeign } from '@/core/fit/fit-package';
import { packageClaim } from '@/core/fit/package-claim';
import { predictRefusal, pristineStates } from '@/core/fit/pristine';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { OpenedPackage } from '@/core/bench/bench';
import { EternoError } from '@/core/errors';
import { openPackageFiles } from '@/core/packages/open-package';
import type { PackageReport } from '@/core/packages/package-report';
import { setHistory } from '@/core/packages/region-part';
import type { OpenedFile } from '@/core/packages/partial-source';
import { bytesIn, partialSource } from '@/core/packages/partial-source';
import { nodePorts } from '@/platform/node/node-ports';
import type { FileSource } from '@/core/table/roll-call';
import type { SlotCell } from '@/core/slots/slot-map';
import { appendEvent, eventsOf } from '../repositories/event-repository';
import {
  deletePackage,
  findImage,
  recordBuild,
  recordPackage,
  listPackages,
} from '../repositories/image-repository';
import { now } from './clock';
import { installedOf } from './fact-service';
import { settleAfterPackage } from './image-judgement';
import { rootImageOf } from '@/core/bench/root-image';
import { readBench, readSubjects } from './bench-reading';
import { settleRounds } from '../rounds/settling';
import { wantedImages } from '../rounds/wanted';

/** A package's build held against every handset on the bench. */
export async function fitAll(report: PackageReport, fileName: string | null): Promise<HandsetFit[]> {
  const claim = packageClaim(report, fileName);
  return (await readSubjects()).map(({ handset: { id, name }, facts }) => ({
    handsetId: id,
    name,
    fit: fitPackage(claim, installedOf(facts)),
    history: setHistory(facts.typed.fingerprint, report.build.fingerprint),
  }));
}

/**
 * Opens a package from what a page read of it to open it, judges and remembers it.
 * @param bytes those of the files' ranges, one file after the other
 * @throws {EternoError} `bad-field` where ranges and bytes don't match, `not-found` where opening it here
 *   reads what was not sent, and what
 *   the readers find wrong
 */
export async function keepOpening(
  files: readonly OpenedFile[],
  bytes: Uint8Array,
): Promise<PackageJudgement> {
  let at = 0;
  const sources = files.map(({ name, size, ranges }) => {
    const own = bytes.subarray(at, (at += bytesIn(ranges)));
    return partialSource(name, size, ranges, own);
  });
  if (at !== bytes.length)
    throw new EternoError('bad-field', `${bytes.length} bytes came for ranges of ${at}`);
  const { report } = await openPackageFiles(sources, nodePorts);
  const sizeBytes = files.reduce((sum, { size }) => sum + size, 0);
  return keepPackage({ fileName: files[0]!.name, sizeBytes, report, readBy: 'server' });
}

/**
 * Remembers what a package was found to be; the package itself stays where it is. One that holds no image, or
 * is for none of the handsets on the bench, is judged but not remembered.
 */
export async function keepPackage({
  fileName,
  sizeBytes,
  report,
  readBy,
}: FoundPackage): Promise<PackageJudgement> {
  const fits = await fitAll(report, fileName);
  const judged = { readBy, ...(await judge(report, fits)) };
  if (report.images.length === 0 || (fits.length > 0 && fits.every(({ fit }) => isForeign(fit.verdict))))
    return { ...judged, wanted: null };
  await recordPackage({ fileName, sizeBytes, report, readBy, openedAt: now() });
  if (readBy === 'server') await settleAfterPackage(report);
  const { fingerprint, patchLevel } = report.build;
  const parts = fingerprint ? splitFingerprint(fingerprint) : null;
  if (fingerprint && parts && patchLevel) {
    await recordBuild({
      fingerprint,
      device: parts.device,
      product: parts.product,
      buildId: parts.id,
      patchLevel,
      // of a month alone it is the first
      publishedAt: Date.parse(patchLevel),
    });
  }
  await settleRounds();
  return {
    ...judged,
    wanted: fingerprint === null || report.incremental ? null : await wantedImages(fingerprint),
  };
}

type FoundPackage = Omit<OpenedPackage, 'id' | 'openedAt'>;

const MOST_SEEN = 30;

/** The packages that were opened last. */
export async function seenPackages(): Promise<SeenPackages> {
  const all = await listPackages();
  const newest = all
    .slice(0, MOST_SEEN)
    .map(({ id, fileName, sizeBytes, openedAt, report: { build, incremental } }) => ({
      id,
      name: build.buildId ?? fileName,
      fileName,
      incremental,
      product: build.fingerprint ? (splitFingerprint(build.fingerprint)?.product ?? null) : null,
      sizeBytes,
      openedAt,
    }));
  return { newest, older: all.length - newest.length };
}

/** Old images in the vault, and handsets that could take the package as it is. */
async function judge(
  report: PackageReport,
  fits: readonly HandsetFit[],
): Promise<Omit<PackageJudgement, 'readBy' | 'wanted'>> {
  const pristine: PristineView[] = [];
  for (const { partition, source } of report.images)
    if (source)
      pristine.push({ partition, sha256: source.sha256, inVault: (await findImage(source.sha256)) !== null });
  const starts: PristineHandset[] = [];
  for (const {
    handset: { name },
    facts: { typed: facts },
    cells,
  } of report.build.sourceFingerprint ? await readSubjects() : []) {
    if (facts.fingerprint !== report.build.sourceFingerprint) continue;
    const slot = facts.currentSlot ?? '-';
    const states = pristineStates(
      report.images,
      certainties(cells).filter((cell) => cell.slot === slot),
    );
    starts.push({ name, slot, states, prediction: predictRefusal(states) });
  }
  const product = (fingerprint: string | null) =>
    fingerprint ? (splitFingerprint(fingerprint)?.product ?? null) : null;
  const own = product(report.build.fingerprint);
  const full = (await listPackages()).filter(
    (one) => !one.report.incremental && own !== null && product(one.report.build.fingerprint) === own,
  );
  return {
    fits,
    pristine,
    starts,
    fullBytes: full.length > 0 ? Math.max(...full.map((one) => one.sizeBytes)) : null,
  };
}

/** A reading that differs from what was predicted still is a reading. */
const certainties = (cells: readonly SlotCell[]) =>
  cells.map(({ slot, partition, sha256, verdict }) => ({
    slot,
    partition,
    sha256,
    certainty: verdict === 'differs' ? ('read' as const) : verdict,
  }));

/**
 * The image that carries root on a build, proved here or judged.
 * @throws {EternoError} `not-found` where the vault has none
 */
export async function patchedImage(fingerprint: string, partition: string): Promise<{ sha256: string }> {
  const image = rootImageOf(await readBench(), partition, fingerprint);
  if (!image)
    throw new EternoError(
      'not-found',
      `No patched ${partition} of this build is in the vault: take out ${partition}, patch it, then come back.`,
    );
  return { sha256: image.sha256 };
}

/** Forgets a package that turned out damaged when something was taken out of it. */
export async function forgetPackage(fileName: string, sizeBytes: number): Promise<void> {
  await deletePackage(fileName, sizeBytes);
}

/**
 * Remembers a file's hash in the log, and tells whether a file of this name had another one before. The first
 * one stands.
 */
export async function rememberHash(fileName: string, sizeBytes: number, sha256: string): Promise<FileMemory> {
  const known = (await eventsOf('file-hashed')).find(({ data }) => data.fileName === fileName);
  if (!known) {
    const at = now();
    await appendEvent({
      at,
      handsetId: null,
      roundId: null,
      kind: 'file-hashed',
      data: { version: 1, fileName, sizeBytes, sha256 },
    });
    return { firstSeenAt: at, changedFrom: null };
  }
  const first = known.data.sha256;
  return { firstSeenAt: known.at, changedFrom: first === sha256 ? null : first };
}

/** Where a file came from, as the person said last. */
export async function sourceOfFile(fileName: string, sizeBytes: number): Promise<FileSource> {
  const notes = (await eventsOf('file-source')).map(({ data }) => data);
  return (
    notes.filter((note) => note.fileName === fileName && note.sizeBytes === sizeBytes).at(-1)?.source ??
    'not said'
  );
}

export async function tellSource(fileName: string, sizeBytes: number, source: FileSource): Promise<void> {
  await appendEvent({
    at: now(),
    handsetId: null,
    roundId: null,
    kind: 'file-source',
    data: { version: 1, fileName, sizeBytes, source },
  });
}

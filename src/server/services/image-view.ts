import 'server-only';
import type { ImageOrigin } from '../db/decode';
import type { Bench, KeptImage, KeptRecovery } from '@/core/bench/bench';
import { recoveryOf, rootOf } from '@/core/bench/judgements';
import { recoveriesForImage } from '@/core/bench/recovery-image';
import type { ImageDetail, ImageOriginView, ImageSummary } from '@/contracts/image-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { judgeLineage } from '@/core/lineage/judge-lineage';
import { listHandsets } from '../repositories/handset-repository';
import { findImage, listImages, originsOf } from '../repositories/image-repository';
import type { KnownHandset } from './bench-reading';
import { readAllSubjects, readBench } from './bench-reading';
import { slotCells } from './slot-service';
import { safeFileName } from './streams';

export function imageSummary({
  sha256,
  partition,
  role,
  fingerprint,
  kit,
  sizeBytes,
  addedAt,
}: KeptImage): ImageSummary {
  const parts = fingerprint ? splitFingerprint(fingerprint) : null;
  return {
    sha256,
    partition,
    role,
    kit,
    sizeBytes,
    addedAt,
    build: parts?.id ?? null,
    product: parts?.product ?? null,
  };
}

export async function imageSummaries(): Promise<ImageSummary[]> {
  return (await listImages()).map(imageSummary);
}

/** The name under which an image is handed out: what it is, in one word of any shell. */
export function imageFileName({
  partition,
  fingerprint,
  role,
  kit,
}: Pick<KeptImage, 'partition' | 'fingerprint' | 'role' | 'kit'>): string {
  const build = fingerprint ? (splitFingerprint(fingerprint)?.id ?? '') : '';
  const name = [partition, build, role === 'stock' ? '' : (kit ?? role)]
    .filter((part) => part !== '')
    .join('-');
  return safeFileName(`${name.replaceAll(' ', '-')}.img`);
}

/** `, with home=metadata and quiet=true`. */
const chosenWords = (options: ImageOrigin['detail']['options'] = {}): string => {
  const chosen = Object.entries(options).map(([name, value]) => `${name}=${String(value)}`);
  return chosen.length === 0 ? '' : `, with ${chosen.join(' and ')}`;
};

export function originView({ kind, detail: data, at }: ImageOrigin): ImageOriginView {
  const sentence =
    kind === 'package'
      ? `taken out of ${data.package}${data.verified ? ', its hash verified' : ''}`
      : kind === 'patch'
        ? `patched here from ${data.stock?.slice(0, 8)}…${chosenWords(data.options)}, proved again by the server`
        : kind === 'rebuilt'
          ? `made here from ${data.stock?.slice(0, 8)}… with the recovery ${data.recovery?.slice(0, 8)}… in it, and proved`
          : kind === 'read-back'
            ? `read back from a handset${data.name ? ` as ${data.name}` : ''}`
            : `brought as a file${data.name ? `, ${data.name}` : ''}`;
  return { kind, sentence, at };
}

async function placesOf(sha256: string): Promise<string[]> {
  const places: string[] = [];
  for (const handset of await listHandsets()) {
    for (const cell of await slotCells(handset.id)) {
      if (cell.sha256 === sha256)
        places.push(
          `${handset.name}, ${cell.slot === '-' ? '' : `slot ${cell.slot}, `}${cell.partition} (${cell.verdict})`,
        );
    }
  }
  return places;
}

/** By the name it came under, where it came as a file. */
async function lineageOf(row: KeptImage): Promise<ImageDetail['lineage']> {
  const named = (await originsOf(row.sha256))
    .map(({ detail }) => detail.name)
    .find((name) => name !== undefined);
  const known = await listImages();
  const { says, notes } = judgeLineage(row, {
    fileName: named ?? null,
    installedFingerprint: null,
    wantedPartition: null,
    known,
  });
  return { says, notes };
}

/** Last month's stock image of the same partition of the same variant. */
async function imageBefore(row: KeptImage): Promise<ImageSummary | null> {
  const product = (fingerprint: string | null) =>
    fingerprint ? (splitFingerprint(fingerprint)?.product ?? null) : null;
  const own = product(row.fingerprint);
  if (row.role !== 'stock' || own === null || row.patchLevel === null) return null;
  const older = (await listImages()).filter(
    (image) =>
      image.role === 'stock' &&
      image.partition === row.partition &&
      product(image.fingerprint) === own &&
      (image.patchLevel ?? '') < row.patchLevel! &&
      image.patchLevel,
  );
  const newest = older.sort((a, b) => (b.patchLevel ?? '').localeCompare(a.patchLevel ?? ''))[0];
  return newest ? imageSummary(newest) : null;
}

/** A vendor_boot with a recovery fragment, or a boot that a handset of the bench keeps its recovery in. */
function recoveriesOf(
  bench: Bench,
  row: KeptImage,
  subjects: readonly KnownHandset[],
): Pick<ImageDetail, 'takesRecoveries' | 'recoveryName'> {
  const holds =
    row.partition === 'vendor_boot'
      ? (row.report.ramdisks ?? []).some(({ type }) => type === 'recovery')
      : row.partition === 'boot' &&
        row.report.ramdisk !== null &&
        subjects.some(
          (subject) =>
            subject.facts.typed.fingerprint === row.fingerprint &&
            recoveryOf(subject, bench, rootOf(subject, bench)).home === 'boot',
        );
  const nameOf = ({ name, version }: KeptRecovery) => `${name} ${version}`;
  const inIt = bench.recoveries.find(({ sha256 }) => sha256 !== null && sha256 === row.recoverySha256);
  return {
    takesRecoveries: holds
      ? recoveriesForImage(bench, row).map((one) => ({ sha256: one.sha256, name: nameOf(one) }))
      : [],
    recoveryName: row.recoverySha256 === null ? null : inIt ? nameOf(inIt) : 'a recovery',
  };
}

/** Everything about one image of the vault. @throws {EternoError} `not-found` */
export async function imageDetail(sha256: string): Promise<ImageDetail> {
  const row = await findImage(sha256);
  if (!row) throw new EternoError('not-found', 'This image is not in the vault.');
  return {
    ...imageSummary(row),
    report: row.report,
    origins: (await originsOf(sha256)).map(originView),
    proof: row.proof,
    stockSha256: row.stockSha256,
    judged: row.judged,
    trust: row.trust,
    patchedFromIt: (await listImages()).filter((image) => image.stockSha256 === sha256).map(imageSummary),
    lineage: await lineageOf(row),
    before: await imageBefore(row),
    places: await placesOf(sha256),
    // only boot may or may not hold a recovery: that depends on the handsets
    ...recoveriesOf(await readBench(), row, row.partition === 'boot' ? await readAllSubjects() : []),
  };
}

/** The other images of the vault, those of the same partition first. */
export async function imagesBeside(sha256: string): Promise<ImageSummary[]> {
  const all = await imageSummaries();
  const partition = all.find((image) => image.sha256 === sha256)?.partition;
  return all
    .filter((image) => image.sha256 !== sha256)
    .sort((a, b) => Number(b.partition === partition) - Number(a.partition === partition));
}

import 'server-only';
import { unslotted } from '@/core/text/partition-names';
import type { KeptImage } from '@/core/bench/bench';
import type { RecognisedFile } from '@/contracts/handset-view';
import type { JobView } from '@/contracts/job-view';
import { memorySource } from '@/core/bytes/byte-source';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';
import type { FlatFact } from '@/core/facts/catalogue';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { identifyImage } from '@/core/packages/bare-image';
import { nodePorts } from '@/platform/node/node-ports';
import { heldImage } from '@/core/slots/held-image';
import type { SizedImage } from '@/core/slots/held-image';
import { READ_BACK_PARTITIONS } from '@/core/slots/read-back';
import type { SlotCell } from '@/core/slots/slot-map';
import { nodeDigests } from '@/platform/node/node-digests';
import { appendEvent } from '../repositories/event-repository';
import { findImage, listImages } from '../repositories/image-repository';
import { needHandset, readBench, readSubject } from './bench-reading';
import { now } from './clock';
import { knownFacts, tellFromImage } from './fact-service';
import { storeImage } from './image-service';
import { startJob } from './jobs';
import type { Bench } from '@/core/bench/bench';
import type { KnownHandset } from './bench-reading';
import { rootOf } from '@/core/bench/judgements';
import { slotCells, reportSlot } from './slot-service';
import { linkOf, needRoot } from './link-service';
import { onePiece } from './streams';

const imagesOf = async (partition: string) =>
  (await listImages()).filter((image) => image.partition === partition);

/** A file as the browser described it; it is hashed again when it is kept. */
export interface DescribedFile {
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly sha256: string;
  readonly holds: string | null;
  readonly fingerprint: string | null;
  readonly partition: string | null;
  readonly slot: string | null;
  readonly problem: string | null;
}

const buildOf = (fingerprint: string | null) =>
  fingerprint === null ? null : (splitFingerprint(fingerprint)?.id ?? null);

/** What a partition that is read out may begin with: images of the vault, and those that packages state. */
export async function imagesOnHandsets(): Promise<SizedImage[]> {
  const { images, packages } = await readBench();
  const stated = packages.flatMap(({ report }) =>
    report.images.flatMap(({ partition, size, sha256 }) =>
      sha256 === null || size === null ? [] : [{ partition, sizeBytes: size, sha256 }],
    ),
  );
  return [...images, ...stated]
    .filter(({ partition }) => READ_BACK_PARTITIONS.some((one) => one === partition))
    .map(({ sha256, sizeBytes }) => ({ sha256, sizeBytes }));
}

/** Holds what was read out against vault, packages and what was predicted. */
export async function recogniseReadBack(
  handsetId: string,
  files: readonly DescribedFile[],
): Promise<RecognisedFile[]> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  return files.map((file) => recognise(file, subject, bench));
}

function recognise(file: DescribedFile, { facts, cells }: KnownHandset, bench: Bench): RecognisedFile {
  const image = bench.images.find((one) => one.sha256 === file.sha256);
  const partition = image?.partition ?? file.partition ?? file.holds;
  const stated = bench.packages
    .filter(({ report }) => report.images.some((one) => one.sha256 === file.sha256))
    .map(({ fileName }) => fileName);
  const build = buildOf(image?.fingerprint ?? file.fingerprint);
  const cell = cells.find((one) => one.partition === partition && one.slot === (file.slot ?? '-'));
  return {
    fileName: file.fileName,
    partition,
    slot: file.slot,
    sizeBytes: file.sizeBytes,
    sha256: file.sha256,
    role: image?.role ?? null,
    kit: image?.kit ?? null,
    build,
    inVault: image !== undefined,
    packages: stated,
    problem: file.problem,
    sentence: [
      whatItIs(image, stated, partition, build),
      newBuild(file, image, facts.typed.fingerprint),
      againstExpected(file.sha256, cell),
    ]
      .filter((part) => part !== null)
      .join(' '),
  };
}

function whatItIs(
  image: KeptImage | undefined,
  stated: readonly string[],
  partition: string | null,
  build: string | null,
): string {
  if (image)
    return image.role === 'patched'
      ? `Patched by ${image.kit ?? 'a kit'}, for ${build ?? 'a build it does not name'}; it is in the vault.`
      : `The ${image.role} ${image.partition} of ${build ?? 'a build it does not name'}; it is in the vault.`;
  if (stated[0]) return `The very ${partition ?? 'image'} that ${stated[0]} states.`;
  return build ? `New here; it says it is of ${build}.` : 'New here; it does not name its build.';
}

/** After an update in place the other slot holds the new build's own image: no download is needed for it. */
function newBuild(
  file: DescribedFile,
  image: KeptImage | undefined,
  installed: string | null,
): string | null {
  const fingerprint = image?.fingerprint ?? file.fingerprint;
  if (image || fingerprint === null || installed === null || fingerprint === installed) return null;
  return `That is not the installed build: kept, it spares a download.`;
}

function againstExpected(sha256: string, cell: SlotCell | undefined): string | null {
  if (!cell || cell.sha256 === null) return null;
  return cell.sha256 === sha256
    ? 'As expected there.'
    : `Not what was expected there (${cell.sha256.slice(0, 8)}…).`;
}

interface ReadPartition {
  readonly partition: string;
  readonly slot: string;
  readonly sha256: string;
}

/**
 * Makes the slot map a read one. What an image of the running slot says of its build is evidence from now on.
 */
export async function keepReadBack(
  handsetId: string,
  files: readonly ReadPartition[],
  source: 'file' | 'link',
): Promise<void> {
  const handset = await needHandset(handsetId);
  for (const { partition, slot, sha256 } of files) {
    await reportSlot({
      handsetId,
      slot: slot === '-' ? null : slot,
      partition,
      sha256,
      certainty: 'read',
      reason: source === 'link' ? 'read back over the link' : 'read back as a file',
    });
    await tellOwnBuild(handset.id, partition, slot, await findImage(sha256), source);
  }
  const cells = await slotCells(handsetId);
  const differing = files.filter(({ partition, slot }) =>
    cells.some((cell) => cell.partition === partition && cell.slot === slot && cell.verdict === 'differs'),
  );
  await appendEvent({
    at: now(),
    handsetId,
    roundId: null,
    kind: 'read-back',
    data: { version: 1, source, files, differing: differing.length },
  });
}

async function tellOwnBuild(
  handsetId: string,
  partition: string,
  slot: string,
  image: KeptImage | null,
  source: 'file' | 'link',
): Promise<void> {
  const known = await knownFacts(handsetId);
  const running = slot === '-' || slot === known.typed.currentSlot;
  const root = rootOf({ facts: known }, await readBench());
  const parts = image?.fingerprint ? splitFingerprint(image.fingerprint) : null;
  if (!running || partition !== root.partition || !image || !parts) return;
  const facts: FlatFact[] = [
    { key: 'fingerprint', value: image.fingerprint! },
    { key: 'buildId', value: parts.id },
    { key: 'incrementalVersion', value: parts.incremental },
    ...(image.patchLevel === null || image.patchLevel.length < 10
      ? []
      : [{ key: 'patchLevel', value: image.patchLevel }]),
  ];
  await tellFromImage(handsetId, facts, source);
}

/** Keeps what was read out of a partition. @returns whether it is kept now: what is of no known format is not */
export const keepReadOut = async (sha256: string, bytes: Uint8Array, name: string): Promise<boolean> =>
  (await findImage(sha256)) !== null || (await keepUnknown(sha256, bytes, name));

/** Keeps a partition's bytes where they are an image that is not here yet. @returns whether they were new */
async function keepUnknown(sha256: string, bytes: Uint8Array, name: string): Promise<boolean> {
  if (await findImage(sha256)) return false;
  const identified = await identifyImage(memorySource(bytes, name), nodePorts).catch((thrown: unknown) => {
    if (thrown instanceof EternoError) return null;
    throw thrown;
  });
  if (!identified) return false;
  await storeImage(sha256, onePiece(bytes), { from: 'read-back', partition: unslotted(name) });
  return true;
}

/**
 * All partitions of both slots over the link, with root, as a job.
 * @throws {EternoError} `refused` where the handset is not linked
 */
export async function readBackOverLink(handsetId: string): Promise<JobView> {
  const handset = await needHandset(handsetId);
  linkOf(handset);
  const { typed } = await knownFacts(handsetId);
  const slots = typed.slotCount === 1 || typed.currentSlot === null ? [''] : ['_a', '_b'];
  const wanted = READ_BACK_PARTITIONS.flatMap((partition) => slots.map((slot) => ({ partition, slot })));
  return startJob(
    { kind: 'read-back', title: `Read ${handset.name} back`, roundId: null },
    async ({ signal, onProgress }) => {
      const link = linkOf(handset, signal);
      onProgress({ phase: 'ask for root', doneBytes: 0, totalBytes: wanted.length });
      await needRoot(link);
      const read: ReadPartition[] = [];
      for (const [i, { partition, slot }] of wanted.entries()) {
        throwIfAborted(signal);
        onProgress({ phase: `read ${partition}${slot}`, doneBytes: i, totalBytes: wanted.length });
        const bytes = await link.read(`${partition}${slot}`).catch((thrown: unknown) => {
          const error = toEternoError(thrown);
          // a handset has not every partition that there could be
          if (error.details?.['reason'] === 'no-partition') return null;
          throw error;
        });
        if (!bytes) continue;
        const source = memorySource(bytes, `${partition}${slot}`);
        const { sha256 } = await heldImage(source, await imagesOf(partition), nodeDigests, signal);
        await keepUnknown(sha256, bytes, `${partition}${slot}`);
        read.push({ partition, slot: slot === '' ? '-' : slot.slice(1), sha256 });
      }
      if (read.length === 0) throw new EternoError('not-found', 'None of its partitions could be read.');
      await keepReadBack(handsetId, read, 'link');
    },
  );
}

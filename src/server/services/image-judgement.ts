import 'server-only';
import type { KeptImage, KeptJudgement } from '@/core/bench/bench';
import { crc32 } from '@/core/bytes/bytes';
import type { ByteSource } from '@/core/bytes/byte-source';
import { readPieces } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { kitItem } from '@/core/bench/judgements';
import type { Kit } from '@/core/kits/kit';
import { readKit } from '@/core/kits/read-kit';
import { signsOfPatch } from '@/core/judge/traces';
import { judgePatched } from '@/core/judge/judge-patched';
import { knownPartition, mayBeOf, mayBeOfOne } from '@/core/packages/bare-image';
import type { JudgedSide } from '@/core/judge/judged-side';
import { fingerprintsOf, readSide } from '@/core/judge/judged-side';
import type { PlacedImage } from '@/core/vault/place-image';
import { placeImage } from '@/core/vault/place-image';
import type { PackageReport } from '@/core/packages/package-report';
import { nodePorts } from '@/platform/node/node-ports';
import { changeImage, findImage, listImages, listKits, listPackages } from '../repositories/image-repository';
import { appendEvent } from '../repositories/event-repository';
import { settleRounds } from '../rounds/settling';
import { openInVault } from '../vault/vault';
import { now } from './clock';
import { oneAtATime } from './one-at-a-time';

/* What an image of the vault is: by its bytes, by opened packages, and against the vault's stock images. */

const PIECE_BYTES = 1 << 20;

async function crcOf(source: ByteSource): Promise<string> {
  let value = 0;
  for await (const piece of readPieces(source, PIECE_BYTES)) value = crc32(piece, value);
  return value.toString(16).padStart(8, '0');
}

/** Null where its bytes are of no known format. @throws {EternoError} what else the readers find wrong */
export async function sideInVault(source: ByteSource): Promise<JudgedSide | null> {
  try {
    return await readSide(source, nodePorts);
  } catch (thrown) {
    if (thrown instanceof EternoError && thrown.code === 'bad-magic') return null;
    throw thrown;
  }
}

/** Where an image belongs, by its bytes and by the packages that the server opened. */
export async function placeInVault(
  sha256: string,
  source: ByteSource,
  side: JudgedSide | null,
  wanted: string | null,
): Promise<PlacedImage> {
  return placeImage(
    {
      sha256,
      sizeBytes: source.size,
      crc32: () => crcOf(source),
      partition: side && knownPartition(side.identity),
      fingerprints: side ? fingerprintsOf(side) : [],
      patchLevel: side?.identity.build.patchLevel ?? null,
      digestValid: side?.report.avb?.digestValid ?? null,
    },
    await listPackages(),
    wanted,
  );
}

/** So many stock images at most are held against one image. */
const MOST_TRIED = 8;

/** The vault's stock images that it may come from, the likeliest first. */
function candidates(image: KeptImage, side: JudgedSide, images: readonly KeptImage[]): KeptImage[] {
  const named = image.report.patchedBy?.stockSha256 ?? null;
  const builds = new Set(fingerprintsOf(side));
  const rank = (stock: KeptImage) =>
    stock.sha256 === named ? 0 : stock.fingerprint !== null && builds.has(stock.fingerprint) ? 1 : 2;
  return images
    .filter(
      ({ role, partition, sha256 }) =>
        role === 'stock' && mayBeOfOne(image, { partition }) && sha256 !== image.sha256,
    )
    .map((stock) => ({ stock, rank: rank(stock) }))
    .sort((a, b) => a.rank - b.rank)
    .slice(0, MOST_TRIED)
    .map(({ stock }) => stock);
}

/** The kit that a note in the image names, where the vault has it. */
async function itsKit(side: JudgedSide): Promise<Kit | null> {
  const { by } = signsOfPatch(side);
  const kept = by.length === 0 ? undefined : (await listKits()).find((row) => by.includes(kitItem(row)));
  return kept ? loadKit(kept.sha256) : null;
}

/** A kit of the vault, read whole. */
export async function loadKit(sha256: string): Promise<Kit> {
  const source = await openInVault('kits', sha256);
  try {
    return (await readKit(source, nodePorts)).kit;
  } finally {
    await source.close();
  }
}

const ORDER = { yes: 0, "can't tell": 1, no: 2 } as const;

/** Held against every stock image that it may come from: the one it fits best. */
async function judgeAgainst(side: JudgedSide, stocks: readonly KeptImage[]): Promise<KeptJudgement | null> {
  const kit = await itsKit(side);
  let best: KeptJudgement | null = null;
  for (const { sha256 } of stocks) {
    const source = await openInVault('images', sha256);
    try {
      const { belongs, times, by, unexpected, lines, changes } = judgePatched(
        await readSide(source, nodePorts),
        side,
        kit,
      );
      if (best === null || ORDER[belongs] < ORDER[best.belongs])
        best = { stockSha256: sha256, belongs, times, by, unexpected, lines, changes };
    } finally {
      await source.close();
    }
    if (best.belongs === 'yes') break;
  }
  return best;
}

type Settled = Pick<
  KeptImage,
  'partition' | 'role' | 'fingerprint' | 'patchLevel' | 'kit' | 'stockSha256' | 'judged'
>;

/** What is to be said of an image that the server did not prove. */
async function settled(image: KeptImage, images: readonly KeptImage[]): Promise<Settled> {
  const source = await openInVault('images', image.sha256);
  try {
    const side = await sideInVault(source);
    const placed = await placeInVault(image.sha256, source, side, image.partition);
    const known: Settled = {
      ...image,
      partition: placed.partition ?? image.partition,
      fingerprint: placed.fingerprint ?? image.fingerprint,
      patchLevel: placed.patchLevel ?? image.patchLevel,
    };
    const isStock = image.role === 'stock' || (placed.role === 'stock' && image.role === 'unknown');
    if (isStock || side === null) return settledAs(known, isStock ? 'stock' : image.role);
    return withJudgement(known, await judgeAgainst(side, candidates(image, side, images)), images);
  } finally {
    await source.close();
  }
}

const settledAs = (
  { partition, fingerprint, patchLevel, kit, stockSha256, judged }: Settled,
  role: KeptImage['role'],
): Settled => ({ partition, fingerprint, patchLevel, kit, stockSha256, judged, role });

/** An image that belongs to a stock image is of its build. */
function withJudgement(known: Settled, judged: KeptJudgement | null, images: readonly KeptImage[]): Settled {
  if (judged === null) return settledAs(known, known.role);
  const stock = judged.belongs === 'yes' ? images.find((one) => one.sha256 === judged.stockSha256) : null;
  const role = known.role === 'unknown' && judged.times > 0 ? 'patched' : known.role;
  return settledAs(
    {
      ...known,
      // which of the two it is of, its stock image tells
      partition: stock && mayBeOf(known, stock.partition) ? stock.partition : known.partition,
      fingerprint: known.fingerprint ?? stock?.fingerprint ?? null,
      kit: known.kit ?? judged.by[0] ?? null,
      stockSha256: known.stockSha256 ?? stock?.sha256 ?? null,
      judged,
    },
    role,
  );
}

/** Whether anything is still to be found out of an image: what the maker made, or the server proved, is known. */
const isOpen = ({ role, proof, fingerprint, judged }: KeptImage) =>
  (role === 'stock' && fingerprint === null) ||
  (role !== 'stock' && role !== 'recovery' && proof === null && judged?.belongs !== 'yes');

/** An image came in: it may be judged, and where it is stock others may be judged by it. */
export const settleAfterImage = ({
  sha256,
  role,
  partition,
}: Pick<KeptImage, 'sha256' | 'role' | 'partition'>) =>
  settleImages((image) => image.sha256 === sha256 || (role === 'stock' && mayBeOfOne(image, { partition })));

/** A package was opened: it may tell what its images are. */
export const settleAfterPackage = ({ images }: PackageReport) =>
  settleImages(({ sha256, sizeBytes }) =>
    images.some((one) => one.sha256 === sha256 || (one.sha256 === null && one.size === sizeBytes)),
  );

/** Looks once more at images that are not known yet; those that cannot be read stay as they are. */
async function settleImages(concerns: (image: KeptImage) => boolean): Promise<void> {
  await oneAtATime('look into an image', async () => {
    const open = (await listImages()).filter((image) => isOpen(image) && concerns(image));
    for (const { sha256 } of open) {
      const image = await findImage(sha256);
      if (!image) continue;
      const now = await settled(image, await listImages()).catch((thrown: unknown) => {
        if (thrown instanceof EternoError) return null;
        throw thrown;
      });
      if (now) await changeImage(sha256, now);
    }
  });
}

/**
 * Keeps why a person trusts whoever made an image. Only one that comes from a stock image of the vault, and was
 * patched once at most, may be trusted: what differs was shown before.
 * @throws {EternoError} `not-found`, `does-not-fit`
 */
export async function trustImage(sha256: string, reason: string): Promise<void> {
  const image = await findImage(sha256);
  if (!image) throw new EternoError('not-found', 'This image is not in the vault.');
  if (image.judged?.belongs !== 'yes' || image.judged.times > 1)
    throw new EternoError(
      'does-not-fit',
      'Nothing shows that this image comes from a stock image of the vault, so trust alone is not enough.',
    );
  await changeImage(sha256, { trust: reason });
  await appendEvent({
    at: now(),
    handsetId: null,
    roundId: null,
    kind: 'image-trusted',
    data: { version: 1, sha256, partition: image.partition, reason },
  });
  await settleRounds();
}

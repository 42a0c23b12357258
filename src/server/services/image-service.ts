import 'server-only';
import { kitItem } from '@/core/bench/judgements';
import { changesKernel } from '@/core/kits/kit';
import type { KeptImage, KeptKit } from '@/core/bench/bench';
import type { ImageOrigin } from '../db/decode';
import { rm } from 'node:fs/promises';
import type { KitView } from '@/contracts/image-view';
import type { ImageOriginInput } from '@/contracts/inputs';
import { readOptions } from '@/contracts/inputs';
import { EternoError } from '@/core/errors';
import { lookInside } from '@/core/handset/look-inside';
import { LIMITS } from '@/core/limits';
import { mayBeOf } from '@/core/packages/bare-image';
import { containerReport } from '@/core/packages/inspect-image';
import type { JudgedSide } from '@/core/judge/judged-side';
import { proveAgain } from '@/core/patch/patch-image';
import type { ProofLine } from '@/core/patch/prove-patch';
import { nodePorts } from '@/platform/node/node-ports';
import type { ImageRow } from '../db/models';
import { appendEvent } from '../repositories/event-repository';
import {
  changeImage,
  findImage,
  findKit,
  listImages,
  listKits,
  recordImage,
  recordKit,
} from '../repositories/image-repository';
import { openInVault, putInVault, vaultPath } from '../vault/vault';

import { now } from './clock';
import type { OptionValues } from '@/core/patch/steps-that-run';
import { chosenLast } from './chosen-options';
import { loadKit, placeInVault, settleAfterImage, sideInVault } from './image-judgement';
import { oneAtATime } from './one-at-a-time';
import { settleRounds } from '../rounds/settling';

export interface StoredImage {
  readonly sha256: string;
  readonly role: ImageRow['role'];
  readonly partition: string;
  readonly proof: readonly ProofLine[] | null;
}

/**
 * Takes an image into the vault. What it is follows from its bytes; what the sender says is only where it
 * came from. A patched image is proved again here from the vault's own stock and kit, and is not kept if that
 * fails.
 * @throws {EternoError} `bad-hash`, `too-large`, `bad-magic` and what the readers find wrong; nothing is kept
 *   then, and nothing that was kept
 *   before is lost
 */
export async function storeImage(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  origin: ImageOriginInput,
): Promise<StoredImage> {
  const stored = await oneAtATime(`image ${sha256}`, () => keepImage(sha256, body, origin));
  // it may be what others are judged by, or be judged itself
  await settleAfterImage(stored);
  // what follows from it is worked out again whenever something is kept: it never undoes what was
  await settleRounds();
  return { ...stored, role: (await findImage(sha256))?.role ?? stored.role };
}

/** What the server itself made of a stock image and a recovery, and proved; never said by a page. */
export interface RebuiltOrigin {
  readonly from: 'rebuilt';
  readonly stock: string;
  readonly recovery: string;
  readonly partition: string;
  readonly proof: readonly ProofLine[];
}
type KeptOrigin = ImageOriginInput | RebuiltOrigin;

/** Takes what `putRecovery` made into the vault. @throws {EternoError} as `storeImage` */
export async function storeRebuilt(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  origin: RebuiltOrigin,
): Promise<StoredImage> {
  const stored = await oneAtATime(`image ${sha256}`, async () => {
    const kept = await keepImage(sha256, body, origin);
    // it may have lain there before, as a file of which nothing was known
    await changeImage(sha256, rebuiltFields(origin));
    return kept;
  });
  await settleRounds();
  return { ...stored, role: 'recovery' };
}

const rebuiltFields = ({ stock, recovery }: RebuiltOrigin) =>
  ({ role: 'recovery', stockSha256: stock, recoverySha256: recovery }) as const;

/** Row and file agree whatever happens: a file whose image is on record is never taken away. */
async function keepImage(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  origin: KeptOrigin,
): Promise<StoredImage> {
  const sizeBytes = await putInVault('images', sha256, body);
  let recorded = false;
  try {
    // looked into one after another: unpacked an image is many times as large
    const { row, proof } = await oneAtATime('look into an image', () => describe(sha256, sizeBytes, origin));
    await recordImage(row, { kind: origin.from, detail: originDetail(origin), at: now() });
    recorded = true;
    await appendEvent({
      at: now(),
      handsetId: null,
      roundId: null,
      kind: 'image-kept',
      data: { version: 1, sha256, role: row.role, partition: row.partition, from: origin.from },
    });
    return { sha256, role: row.role, partition: row.partition, proof };
  } catch (thrown) {
    if (!recorded && !(await findImage(sha256)))
      await rm(/*turbopackIgnore: true*/ vaultPath('images', sha256), { force: true });
    throw thrown;
  }
}

/** What was chosen of the kit's options, as it came with the image. */
const chosenIn = ({ options }: Pick<ImageOriginInput, 'options'>): OptionValues =>
  (options === undefined ? null : readOptions(options)) ?? {};

function originDetail(origin: KeptOrigin): ImageOrigin['detail'] {
  if (origin.from === 'rebuilt') {
    const { from, stock, recovery } = origin;
    return { version: 1, from, stock, recovery };
  }
  const { from, name, package: packageName, partition, verified, stock, kit, options } = origin;
  return {
    version: 1,
    from,
    ...(name ? { name } : {}),
    ...(packageName ? { package: packageName, partition, verified: verified === 'yes' } : {}),
    ...(stock ? { stock, ...(kit ? { kit } : {}) } : {}),
    ...(options ? { options: chosenIn({ options }) } : {}),
  };
}

/**
 * Of an image that does not tell: its stock image's, else what it says that it may be of.
 * @throws {EternoError} `bad-magic` where nothing is known of its bytes
 */
async function untoldPartition(
  side: JudgedSide | null,
  { stock, name }: Pick<ImageOriginInput, 'stock' | 'name'>,
): Promise<string> {
  if (side === null)
    throw new EternoError('bad-magic', 'its bytes are of no known format, and no opened package has them', {
      file: name,
      offset: 0,
    });
  const from = stock === undefined ? null : await findImage(stock);
  return from && mayBeOf(side.identity, from.partition) ? from.partition : side.identity.partition;
}

async function describe(
  sha256: string,
  sizeBytes: number,
  origin: KeptOrigin,
): Promise<{ row: KeptImage; proof: readonly ProofLine[] | null }> {
  const source = await openInVault('images', sha256);
  try {
    const side = await sideInVault(source);
    const placed = await placeInVault(sha256, source, side, origin.partition ?? null);
    const partition = placed.partition ?? (await untoldPartition(side, { name: sha256, ...origin }));
    const proof =
      origin.from === 'rebuilt'
        ? origin.proof
        : origin.from === 'patch'
          ? await proveStored(sha256, origin)
          : null;
    const report = side?.report ?? containerReport(sizeBytes, sha256);
    const inside = report.ramdisk ? await lookInside(source, partition, nodePorts) : null;
    const row: KeptImage = {
      sha256,
      sizeBytes,
      partition,
      role: report.patchedBy ? 'patched' : inside?.recovery ? 'recovery' : placed.role,
      fingerprint: placed.fingerprint,
      patchLevel: placed.patchLevel,
      kit: report.patchedBy?.kit ?? null,
      stockSha256: report.patchedBy?.stockSha256 ?? null,
      recoverySha256: null,
      proof,
      judged: null,
      trust: null,
      report,
      addedAt: now(),
    };
    return { row, proof };
  } finally {
    await source.close();
  }
}

async function proveStored(
  sha256: string,
  { stock, kit, avb, ramdisk, options }: ImageOriginInput,
): Promise<readonly ProofLine[]> {
  if (!stock || !kit)
    throw new EternoError('bad-field', 'a patched image comes with its stock image and its kit');
  const [stockSource, result] = [await openInVault('images', stock), await openInVault('images', sha256)];
  try {
    const proof = await proveAgain(stockSource, await loadKit(kit), result, nodePorts, {
      avb: { mode: avb ?? 'carry' },
      gzipInstead: ramdisk === 'gzip',
      chosen: chosenIn({ options }),
    });
    const failed = proof.filter((line) => !line.ok);
    if (failed.length > 0)
      throw new EternoError(
        'bad-hash',
        `the server's own proof failed: ${failed.map((line) => line.check).join('; ')}`,
      );
    return proof;
  } finally {
    await stockSource.close();
    await result.close();
  }
}

/** Takes a kit in after reading all of it. @throws {EternoError} `kit-invalid`, `bad-hash` */
export function storeKit(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  fileName: string,
): Promise<KeptKit> {
  return oneAtATime(`kit ${sha256}`, () => keepKit(sha256, body, fileName));
}

async function keepKit(sha256: string, body: AsyncIterable<Uint8Array>, fileName: string): Promise<KeptKit> {
  const sizeBytes = await putInVault('kits', sha256, body, LIMITS.kitBytes);
  try {
    const kit = await loadKit(sha256);
    const { id, name, version, versionCode, channel, supports, afterFailedStarts, companion } = kit;
    await recordKit({
      sha256,
      kitId: id,
      name,
      version,
      versionCode,
      channel,
      supports,
      restsAfter: afterFailedStarts?.does === 'rest-modules' ? afterFailedStarts.starts : null,
      changesKernel: changesKernel(kit),
      leastApp: companion?.minimumVersionCode ?? null,
      fileName,
      sizeBytes,
      addedAt: now(),
    });
  } catch (thrown) {
    if (!(await findKit(sha256)))
      await rm(/*turbopackIgnore: true*/ vaultPath('kits', sha256), { force: true });
    throw thrown;
  }
  return (await findKit(sha256))!;
}

export async function kitViews(): Promise<KitView[]> {
  const images = await listImages();
  const views = (await listKits()).map(async ({ sha256, kitId, name, version, channel, supports }) => ({
    sha256,
    item: kitItem({ kitId, version }),
    name,
    version,
    channel,
    partitions: supports.partitions,
    // a kit that is damaged or gone is still told of; patching with it says what is wrong
    ...(await loadKit(sha256).then(
      async (kit) => ({ options: kit.options, chosen: await chosenLast(kit, images) }),
      () => ({ options: {}, chosen: {} }),
    )),
  }));
  return Promise.all(views);
}

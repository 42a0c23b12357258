import { memorySource } from '@/core/bytes/byte-source';
import { kitFor } from '@/core/bench/judgements';
import { rootImageOf, stockImageOf } from '@/core/bench/root-image';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { HandsetProfile, HandsetState, Slot } from '@/core/handset/state';
import type { Kit } from '@/core/kits/kit';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import type { OwnScene } from '@/server/services/own-scene';
import { isWhole, readProved } from '@/server/vault/vault';
import { bootOf, initBootOf, plainOf, ramdiskBootOf } from './demo-images';
import { burrowKit } from './demo-kit';
import type { DemoBuild } from './world';

/* The images of a copied handset: out of the vault where they are whole there, else made up. */

/** A build by its name, with what is known of it. @throws {EternoError} `bad-field` for what names none */
export function buildOf(fingerprint: string, { builds }: Pick<HandsetProfile, 'builds'>): DemoBuild {
  const parts = splitFingerprint(fingerprint);
  if (!parts) throw new EternoError('bad-field', `${fingerprint} names no build`);
  const { product, device, release, id: buildId, incremental } = parts;
  const patchLevel = builds[fingerprint]?.patchLevel ?? '2020-01-05';
  const publishedAt = Date.parse(`${patchLevel}T00:00:00Z`);
  return { product, device, release, buildId, incremental, patchLevel, publishedAt };
}

/** Bytes that say of which partition and build they are. */
function madeUp(
  partition: string,
  fingerprint: string,
  profile: HandsetProfile,
): Promise<Uint8Array<ArrayBuffer>> {
  const build = buildOf(fingerprint, profile);
  const { brand } = splitFingerprint(fingerprint)!;
  if (partition === 'init_boot') return initBootOf(build, brand);
  if (partition === 'boot' && profile.rootPartition === 'init_boot') return bootOf(build, brand);
  if (partition === 'boot' || partition === 'recovery') return ramdiskBootOf(build, brand, partition);
  const level = partition === 'bootloader' ? (profile.builds[fingerprint]?.bootloader ?? 1) : 1;
  return plainOf(partition, build, brand, level);
}

const inVault = async (sha256: string | null | undefined): Promise<Uint8Array | null> =>
  sha256 && (await isWhole('images', sha256)) ? readProved('images', sha256) : null;

export interface OwnKit {
  readonly kit: Kit;
  readonly zip: Uint8Array;
}
/** The kit on the shelf that suits it; the invented one where none does. */
export async function kitOf({ bench, subject, context }: OwnScene): Promise<OwnKit> {
  const row = kitFor(bench, context.profile.rootPartition, subject.facts.typed.sdk);
  const kept = row && (await isWhole('kits', row.sha256));
  const zip = kept ? await readProved('kits', row.sha256) : await burrowKit();
  return { kit: (await readKit(memorySource(zip, 'kit.zip'), nodePorts)).kit, zip };
}

export class OwnImages {
  private readonly made = new Map<string, Promise<Uint8Array>>();

  constructor(
    private readonly own: OwnScene,
    private readonly profile: HandsetProfile,
    private readonly kit: Kit,
  ) {}

  stock(partition: string, fingerprint: string): Promise<Uint8Array> {
    const key = `${partition} ${fingerprint}`;
    const known =
      this.made.get(key) ??
      inVault(stockImageOf(this.own.bench, partition, fingerprint)?.sha256).then(
        (bytes) => bytes ?? madeUp(partition, fingerprint, this.profile),
      );
    this.made.set(key, known);
    return known;
  }

  /** Every stock image of a build. */
  async whole(partitions: readonly string[], fingerprint: string): Promise<Map<string, Uint8Array>> {
    const images = new Map<string, Uint8Array>();
    for (const partition of partitions) images.set(partition, await this.stock(partition, fingerprint));
    return images;
  }

  private async patched(partition: string, fingerprint: string): Promise<Uint8Array> {
    const kept = await inVault(rootImageOf(this.own.bench, partition, fingerprint)?.sha256);
    if (kept) return kept;
    const stock = await this.stock(partition, fingerprint);
    return (await patchImage(memorySource(stock, partition), this.kit, nodePorts)).bytes;
  }

  /** What lies on a partition of a slot by the records. */
  async lying(partition: string, slot: Slot, start: HandsetState): Promise<Uint8Array> {
    const cell = this.own.subject.cells.find(
      (one) => one.partition === partition && (one.slot === slot || one.slot === '-'),
    );
    const kept = await inVault(cell?.sha256);
    if (kept) return kept;
    const facts = start.images[`${partition}_${slot}`];
    const fingerprint = facts?.fingerprint ?? start.builds[slot];
    return facts?.patchedBy ? this.patched(partition, fingerprint) : this.stock(partition, fingerprint);
  }
}

import type { SlotCell } from '../slots/slot-map';

/* At this minute, with which files and steps, back to stock on the running slot? (docs/method.md, "Way back") */

export interface VaultImage {
  readonly sha256: string;
  readonly partition: string;
  readonly role: 'stock' | 'patched' | 'recovery' | 'unknown';
  readonly fingerprint: string | null;
}

export interface WayBackInput {
  readonly fingerprint: string | null;
  readonly unlocked: boolean | null;
  readonly rootPartition: string | null;
  readonly activeSlot: string | null;
  readonly slotCount: number | null;
  readonly cells: readonly SlotCell[];
  readonly images: readonly VaultImage[];
  /** Hashes that the last integrity check found damaged or gone. */
  readonly damaged: ReadonlySet<string>;
  readonly snapshot: string | null;
}

export interface WayBackStep {
  readonly title: string;
  readonly minutes: number;
}

export interface WayBack {
  readonly open: boolean;
  /** Short, for a table. */
  readonly sentence: string;
  readonly steps: readonly WayBackStep[];
  readonly files: readonly VaultImage[];
  /** Partitions of the running slot that are changed and whose stock image is missing. */
  readonly missing: readonly string[];
  /** Whether the other slot still is a way back, and how long. */
  readonly otherSlot: string | null;
}

const closed = (sentence: string, missing: readonly string[] = []): WayBack => ({
  open: false,
  sentence,
  steps: [],
  files: [],
  missing,
  otherSlot: null,
});

/**
 * Partitions of the running slot that would have to be written to be stock. The one that carries root counts as changed until it was read
 * as stock: what an update is said to have written is no proof.
 */
export function changedPartitions({ cells, activeSlot, images, rootPartition, fingerprint }: WayBackInput): string[] {
  const slot = activeSlot ?? '-';
  const isStock = (sha256: string | null) =>
    images.some((image) => image.sha256 === sha256 && image.role === 'stock' && image.fingerprint === fingerprint);
  const running = cells.filter((cell) => cell.slot === slot || cell.slot === '-');
  const changed = running.filter(
    (cell) => cell.verdict === 'unknown' || (images.some((image) => image.sha256 === cell.sha256) && !isStock(cell.sha256)),
  );
  const proven = running.some((cell) => cell.partition === rootPartition && cell.verdict === 'read' && isStock(cell.sha256));
  return [...new Set([...(rootPartition === null || proven ? [] : [rootPartition]), ...changed.map((cell) => cell.partition)])];
}

export function stockOf(images: readonly VaultImage[], fingerprint: string | null, partition: string): VaultImage | null {
  if (fingerprint === null) return null;
  return images.find((image) => image.role === 'stock' && image.fingerprint === fingerprint && image.partition === partition) ?? null;
}

export function wayBackOf(input: WayBackInput): WayBack {
  const { fingerprint, unlocked, rootPartition, images, damaged, snapshot, slotCount } = input;
  if (unlocked === false) return { open: true, sentence: 'locked: it is stock', steps: [], files: [], missing: [], otherSlot: null };
  if (fingerprint === null) return closed('unknown: its build is not known');
  if (rootPartition === null) return closed('unknown: where root sits is not known');
  const wanted = changedPartitions(input);
  if (wanted.length === 0) return { open: true, sentence: 'stock already, by what was read', steps: [], files: [], missing: [], otherSlot: null };
  const files: VaultImage[] = [];
  const missing: string[] = [];
  for (const partition of wanted) {
    const stock = stockOf(images, fingerprint, partition);
    if (stock && !damaged.has(stock.sha256)) files.push(stock);
    else missing.push(partition);
  }
  const otherSlot =
    slotCount !== 2
      ? null
      : snapshot === 'merging'
        ? 'Merging has begun: the other slot is no way back any more.'
        : snapshot === 'snapshotted'
          ? 'The other slot is a way back until merging starts.'
          : 'The other slot holds an older build; it opens only what that build can read.';
  if (missing.length > 0) return { ...closed(`stock ${missing.join(' and ')} missing`, missing), files, otherSlot };
  const steps: WayBackStep[] = [
    { title: 'Bring it into its bootloader', minutes: 0.5 },
    ...files.map((file) => ({ title: `Write the stock ${file.partition}`, minutes: 1 })),
    { title: 'Start the system', minutes: 1 },
  ];
  const minutes = steps.reduce((sum, step) => sum + step.minutes, 0);
  return { open: true, sentence: `${steps.length} steps, about ${Math.ceil(minutes)} min`, steps, files, missing: [], otherSlot };
}

/** Why an image must stay: it is the last way back of a handset. Empty where it may go. */
export interface Guardian {
  readonly handset: string;
  readonly reason: string;
}

export interface GuardedHandset extends WayBackInput {
  readonly name: string;
  /** Builds its slots hold, the running one included. */
  readonly slotFingerprints: readonly string[];
  /** Hashes of the images that its open round still works with. */
  readonly neededByRound: readonly string[];
}

/** Stock images of what a handset runs, and whatever a patched image on one of its slots was made from, are never thrown away. */
export function guardiansOf(image: VaultImage & { readonly patchedFromIt: readonly string[] }, handsets: readonly GuardedHandset[]): Guardian[] {
  return handsets.flatMap((handset): Guardian[] => {
    if (image.role === 'stock' && image.fingerprint !== null && handset.slotFingerprints.includes(image.fingerprint))
      return [{ handset: handset.name, reason: `It is the way back to stock ${image.partition} of a build that is on ${handset.name}.` }];
    const lies = handset.cells.find((cell) => cell.sha256 === image.sha256);
    if (lies)
      return [
        {
          handset: handset.name,
          reason: `It lies on ${handset.name} (${lies.slot === '-' ? '' : `slot ${lies.slot}, `}${lies.partition}), and proves what is there.`,
        },
      ];
    if (handset.neededByRound.includes(image.sha256))
      return [{ handset: handset.name, reason: `The round that is open on ${handset.name} needs it.` }];
    const from = handset.cells.find((cell) => cell.sha256 !== null && image.patchedFromIt.includes(cell.sha256));
    if (from) return [{ handset: handset.name, reason: `The patched image on ${handset.name} was made from it.` }];
    return [];
  });
}

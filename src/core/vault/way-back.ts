import type { SlotCell } from '../slots/slot-map';
import type { Guarding, OtherSlotSays, WayBackDeed, WayBackSays } from '../words/way-back';

/*
 * At this minute, with which files and steps, back to stock on the running slot? (docs/method.md, "Way back")
 */

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

export type WayBackStep = WayBackDeed & { readonly minutes: number };

export interface WayBack {
  readonly open: boolean;
  readonly says: WayBackSays;
  readonly steps: readonly WayBackStep[];
  readonly files: readonly VaultImage[];
  /** Partitions of the running slot that are changed and whose stock image is missing. */
  readonly missing: readonly string[];
  /** Whether the other slot still is a way back, and how long; null where there is none. */
  readonly otherSlot: OtherSlotSays | null;
}

/** Nothing to do, or nothing that can be done. */
const atOnce = (open: boolean, says: WayBackSays): WayBack => ({
  open,
  says,
  steps: [],
  files: [],
  missing: [],
  otherSlot: null,
});

/**
 * Partitions of the running slot that would have to be written to be stock. The one that carries root counts
 * as changed until it was read as stock: what an update is said to have written is no proof.
 */
export function changedPartitions({
  cells,
  activeSlot,
  images,
  rootPartition,
  fingerprint,
}: WayBackInput): string[] {
  const slot = activeSlot ?? '-';
  const isStock = (sha256: string | null) =>
    images.some(
      (image) => image.sha256 === sha256 && image.role === 'stock' && image.fingerprint === fingerprint,
    );
  const running = cells.filter((cell) => cell.slot === slot || cell.slot === '-');
  const changed = running.filter(
    (cell) =>
      cell.verdict === 'unknown' ||
      (images.some((image) => image.sha256 === cell.sha256) && !isStock(cell.sha256)),
  );
  const proven = running.some(
    (cell) => cell.partition === rootPartition && cell.verdict === 'read' && isStock(cell.sha256),
  );
  return [
    ...new Set([
      ...(rootPartition === null || proven ? [] : [rootPartition]),
      ...changed.map((cell) => cell.partition),
    ]),
  ];
}

export function stockOf(
  images: readonly VaultImage[],
  fingerprint: string | null,
  partition: string,
): VaultImage | null {
  if (fingerprint === null) return null;
  return (
    images.find(
      (image) => image.role === 'stock' && image.fingerprint === fingerprint && image.partition === partition,
    ) ?? null
  );
}

const OTHER_SLOT: Readonly<Record<string, OtherSlotSays>> = { merging: 'gone', snapshotted: 'until-merging' };

/** What lies on the other slot is said only where it was read, or written from here. */
const onTheOther = ({ cells, activeSlot }: WayBackInput): OtherSlotSays =>
  cells.some(({ slot, sha256 }) => slot !== activeSlot && slot !== '-' && sha256 !== null)
    ? 'older-build'
    : 'never-read';

export function wayBackOf(input: WayBackInput): WayBack {
  const { fingerprint, unlocked, rootPartition, images, damaged, snapshot, slotCount } = input;
  if (unlocked === false) return atOnce(true, { code: 'locked' });
  if (fingerprint === null) return atOnce(false, { code: 'build-unknown' });
  if (rootPartition === null) return atOnce(false, { code: 'root-unknown' });
  const wanted = changedPartitions(input);
  if (wanted.length === 0) return atOnce(true, { code: 'stock-already' });
  const files: VaultImage[] = [];
  const missing: string[] = [];
  for (const partition of wanted) {
    const stock = stockOf(images, fingerprint, partition);
    if (stock && !damaged.has(stock.sha256)) files.push(stock);
    else missing.push(partition);
  }
  const otherSlot = slotCount === 2 ? (OTHER_SLOT[snapshot ?? ''] ?? onTheOther(input)) : null;
  if (missing.length > 0)
    return {
      open: false,
      says: { code: 'missing', partitions: missing },
      steps: [],
      files,
      missing,
      otherSlot,
    };
  const steps: WayBackStep[] = [
    { do: 'bootloader', minutes: 0.5 },
    ...files.map(({ partition }): WayBackStep => ({ do: 'write', partition, minutes: 1 })),
    { do: 'start', minutes: 1 },
  ];
  const minutes = Math.ceil(steps.reduce((sum, step) => sum + step.minutes, 0));
  return {
    open: true,
    says: { code: 'steps', steps: steps.length, minutes },
    steps,
    files,
    missing: [],
    otherSlot,
  };
}

export interface GuardedHandset extends WayBackInput {
  readonly name: string;
  /** Builds its slots hold, the running one included. */
  readonly slotFingerprints: readonly string[];
  /** Hashes of the images that its open round still works with. */
  readonly neededByRound: readonly string[];
  /** Hash of the recovery of the shelf that its rounds work with; null where there is none. */
  readonly ownRecovery: string | null;
}

/**
 * Why an image must stay: it is the last way back of a handset. Stock images of what a handset runs, and
 * whatever a patched image on one of its slots was made from, are never thrown away.
 * @returns one reason a handset; empty where it may go
 */
export function guardiansOf(
  image: VaultImage & { readonly patchedFromIt: readonly string[] },
  handsets: readonly GuardedHandset[],
): Guarding[] {
  return handsets.flatMap((guarded): Guarding[] => {
    const { name: handset, slotFingerprints, cells, neededByRound, ownRecovery } = guarded;
    if (image.role === 'stock' && image.fingerprint !== null && slotFingerprints.includes(image.fingerprint))
      return [{ code: 'way-back', partition: image.partition, handset }];
    const lies = cells.find((cell) => cell.sha256 === image.sha256);
    if (lies)
      return [
        {
          code: 'lies-there',
          partition: lies.partition,
          slot: lies.slot === '-' ? null : lies.slot,
          handset,
        },
      ];
    if (neededByRound.includes(image.sha256)) return [{ code: 'open-round', handset }];
    if (image.sha256 === ownRecovery) return [{ code: 'own-recovery', handset }];
    const madeFrom = cells.some((cell) => cell.sha256 !== null && image.patchedFromIt.includes(cell.sha256));
    return madeFrom ? [{ code: 'made-from', handset }] : [];
  });
}

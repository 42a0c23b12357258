import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import type { SlotCellView } from '@/contracts/handset-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { SlotCell, SlotEntry } from '@/core/slots/slot-map';
import { slotMapOf } from '@/core/slots/slot-map';
import { appendEvent } from '../repositories/event-repository';
import { addSlotContent, slotHistoryOf } from '../repositories/handset-repository';
import { findImage } from '../repositories/image-repository';
import { now } from './clock';

/** What each partition of each slot of a handset holds. */
export async function slotCells(handsetId: string): Promise<SlotCell[]> {
  return slotMapOf(await slotHistoryOf(handsetId));
}

export interface SlotReport {
  readonly handsetId: string;
  /** Null where the handset has one. */
  readonly slot: string | null;
  readonly partition: string;
  readonly sha256: string | null;
  readonly certainty: SlotEntry['certainty'];
  readonly reason: string;
}

export async function reportSlot({ slot, ...report }: SlotReport): Promise<void> {
  await addSlotContent({ ...report, slot: slot ?? '-', at: now() });
}

/**
 * Changed by hand, with a reason that stays in the log.
 * @throws {EternoError} `not-found` for an image that is not in the vault
 */
export async function setSlotByHand(
  handsetId: string,
  slot: string,
  partition: string,
  sha256: string | null,
  reason: string,
): Promise<void> {
  if (sha256 !== null && !(await findImage(sha256)))
    throw new EternoError('not-found', 'This image is not in the vault.');
  const at = now();
  await addSlotContent({
    handsetId,
    slot,
    partition,
    sha256,
    certainty: sha256 === null ? 'unknown' : 'predicted',
    reason: `by hand: ${reason}`,
    at,
  });
  await appendEvent({
    at,
    handsetId,
    roundId: null,
    kind: 'slot-by-hand',
    data: { version: 1, slot, partition, sha256, reason },
  });
}

export function slotViews(cells: readonly SlotCell[], images: readonly KeptImage[]): SlotCellView[] {
  const holding = (sha256: string | null) => {
    const image = images.find((row) => row.sha256 === sha256);
    return {
      sha256,
      role: image?.role ?? null,
      kit: image?.kit ?? null,
      build: image?.fingerprint ? (splitFingerprint(image.fingerprint)?.id ?? null) : null,
    };
  };
  return cells.map(({ slot, partition, verdict, sha256, reason, at, predicted, read, history }) => ({
    slot,
    partition,
    verdict,
    ...holding(sha256),
    reason,
    at,
    predicted: predicted && { ...holding(predicted.sha256), at: predicted.at },
    read: read && { ...holding(read.sha256), at: read.at },
    history: history.map((entry) => ({
      ...holding(entry.sha256),
      certainty: entry.certainty,
      reason: entry.reason,
      at: entry.at,
    })),
  }));
}

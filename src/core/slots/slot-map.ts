/* What each partition of each slot holds, predicted against read (docs/method.md, "Slot map"). */

export type Certainty = 'predicted' | 'read' | 'unknown';

/**
 * One entry of a handset's history: somebody wrote, read back, or said. Never changed, only followed by the
 * next.
 */
export interface SlotEntry {
  readonly slot: string;
  readonly partition: string;
  /** Null where only the kind is known, such as "the update's own stock image". */
  readonly sha256: string | null;
  readonly certainty: Certainty;
  readonly reason: string;
  readonly at: number;
}

export type SlotVerdict = 'read' | 'predicted' | 'differs' | 'unknown';

export interface SlotCell {
  readonly slot: string;
  readonly partition: string;
  readonly verdict: SlotVerdict;
  /** What counts now: what was read, unless something happened since. */
  readonly sha256: string | null;
  readonly reason: string;
  readonly at: number;
  readonly predicted: SlotEntry | null;
  readonly read: SlotEntry | null;
  /** Everything that ever lay there, newest first. */
  readonly history: readonly SlotEntry[];
}

const ORDER = ['init_boot', 'boot', 'vendor_boot', 'recovery', 'vbmeta'];
const rank = (partition: string) => (ORDER.includes(partition) ? ORDER.indexOf(partition) : ORDER.length);

/** A handset's cells in reading order, from its whole history. */
export function slotMapOf(entries: readonly SlotEntry[]): SlotCell[] {
  const cells = new Map<string, SlotEntry[]>();
  for (const entry of entries) {
    const key = `${entry.partition} ${entry.slot}`;
    cells.set(key, [...(cells.get(key) ?? []), entry]);
  }
  return [...cells.values()]
    .map(cellOf)
    .sort(
      (a, b) =>
        rank(a.partition) - rank(b.partition) ||
        a.partition.localeCompare(b.partition) ||
        a.slot.localeCompare(b.slot),
    );
}

function cellOf(entries: readonly SlotEntry[]): SlotCell {
  // of two entries of one moment the later told counts
  const history = entries
    .map((entry, i) => ({ entry, i }))
    .sort((a, b) => b.entry.at - a.entry.at || b.i - a.i)
    .map(({ entry }) => entry);
  const newest = history[0]!;
  const read = history.find((entry) => entry.certainty === 'read') ?? null;
  const predicted = history.find((entry) => entry.certainty === 'predicted') ?? null;
  return {
    slot: newest.slot,
    partition: newest.partition,
    verdict: verdictOf(newest, history),
    sha256: newest.sha256,
    reason: newest.reason,
    at: newest.at,
    predicted,
    read,
    history,
  };
}

/** A reading proves or contradicts what was predicted just before it. */
function verdictOf(newest: SlotEntry, history: readonly SlotEntry[]): SlotVerdict {
  if (newest.certainty !== 'read') return newest.certainty;
  const before = history.find((entry) => entry.certainty !== 'read');
  const lastReadBefore = history.slice(1).find((entry) => entry.certainty === 'read');
  const expected =
    before && (!lastReadBefore || before.at >= lastReadBefore.at) ? before : (lastReadBefore ?? null);
  if (!expected || expected.sha256 === null) return 'read';
  return expected.sha256 === newest.sha256 ? 'read' : 'differs';
}

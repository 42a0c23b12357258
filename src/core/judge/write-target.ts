import { EternoError } from '../errors';
import type { WriteTarget } from './write-question';

/* A handset as facts and a person's file describe it, seen as the place of one write. */

interface PartitionFacts {
  readonly size?: number | null | undefined;
  readonly hasSlot?: boolean | null | undefined;
  readonly logical?: boolean | null | undefined;
}

type Maybe<T> = T | null | undefined;
interface SlotFacts {
  readonly build?: Maybe<string>;
}

/** Unknown is null or left out. */
export interface HandsetFacts {
  readonly fingerprint?: Maybe<string>;
  readonly device?: Maybe<string>;
  readonly sdk?: Maybe<number>;
  readonly patchLevel?: Maybe<string>;
  readonly slotCount?: Maybe<number>;
  readonly currentSlot?: Maybe<string>;
  readonly unlocked?: Maybe<boolean>;
  readonly bootloader?: Maybe<string>;
  readonly batteryOk?: Maybe<boolean>;
  readonly partitions?: Maybe<Readonly<Record<string, PartitionFacts>>>;
  readonly slotContents?: Maybe<{ readonly a?: Maybe<SlotFacts>; readonly b?: Maybe<SlotFacts> }>;
  readonly snapshot?: Maybe<string>;
  readonly mode?: Maybe<string>;
  readonly batteryPercent?: Maybe<number>;
  /** Seconds since it was read. */
  readonly batteryAge?: Maybe<number>;
  readonly recoveryHome?: Maybe<string>;
  readonly fuse?: Maybe<number>;
  readonly bootloaderLevel?: Maybe<number>;
}

/** The same with null for what nobody knows. */
type Known = {
  readonly [K in Exclude<keyof HandsetFacts, 'partitions' | 'slotContents' | 'slotCount'>]-?: NonNullable<
    HandsetFacts[K]
  > | null;
} & {
  readonly partitions: Readonly<Record<string, PartitionFacts>>;
  readonly slotContents: NonNullable<HandsetFacts['slotContents']>;
};
const UNKNOWN: Known = {
  fingerprint: null,
  device: null,
  sdk: null,
  patchLevel: null,
  currentSlot: null,
  unlocked: null,
  bootloader: null,
  batteryOk: null,
  partitions: {},
  slotContents: {},
  snapshot: null,
  mode: null,
  batteryPercent: null,
  batteryAge: null,
  recoveryHome: null,
  fuse: null,
  bootloaderLevel: null,
};
const NO_PARTITION: { readonly size: number | null; readonly logical: boolean | null } = {
  size: null,
  logical: null,
};

/** What of it is known at all. */
const said = <T extends object>(facts: T) =>
  Object.fromEntries(Object.entries(facts).filter(([, value]) => value !== null && value !== undefined)) as {
    [K in keyof T]?: NonNullable<T[K]>;
  };

/** How many slots it has, as far as anything says so. */
function slotCountOf({ slotCount, currentSlot, partitions }: HandsetFacts): number | null {
  if (slotCount !== null && slotCount !== undefined) return slotCount;
  if (currentSlot !== null && currentSlot !== undefined) return 2;
  return Object.entries(partitions ?? {}).some(([, { hasSlot }]) => hasSlot === true) ? 2 : null;
}

/** Whether a partition exists once a slot; null where nothing says so. */
export function isSlotted(facts: HandsetFacts, partition: string): boolean | null {
  const own = facts.partitions?.[partition]?.hasSlot ?? null;
  if (own !== null) return own;
  const names = Object.keys(facts.partitions ?? {});
  if (names.includes(`${partition}_a`)) return true;
  const count = slotCountOf(facts);
  if (count === 1) return false;
  if (names.includes(partition)) return false;
  return count === 2 ? true : null;
}

function needSlot(partition: string, slotted: boolean | null, slot: string | null): void {
  if (slot !== null && slot !== 'a' && slot !== 'b') throw new EternoError('usage', 'a slot is a or b');
  if (slotted === true && slot === null)
    throw new EternoError('usage', `${partition} exists on both slots: name the one that is written`);
  if (slotted === false && slot !== null)
    throw new EternoError('usage', `${partition} has no slots on this handset: name none`);
}

/**
 * @param slot as it was named; null where none was
 * @throws {EternoError} `usage` where a slot is named and the partition has none, or none is named and it has
 *   two
 */
export function writeTargetOf(facts: HandsetFacts, partition: string, slot: string | null): WriteTarget {
  const slotted = isSlotted(facts, partition);
  needSlot(partition, slotted, slot);
  const known: Known = { ...UNKNOWN, ...said(facts) };
  const name = slot === null ? partition : `${partition}_${slot}`;
  const own = {
    ...NO_PARTITION,
    ...said(known.partitions[partition] ?? {}),
    ...said(known.partitions[name] ?? {}),
  };
  const content = known.slotContents[slot === 'b' ? 'b' : 'a'];
  // without slots of its own a partition serves the one that runs
  const running = slot === null ? true : known.currentSlot === null ? null : known.currentSlot === slot;
  const runs = running === true ? known.fingerprint : null;
  const slotBuild = content?.build ?? runs;
  const { batteryPercent: percent, batteryOk: fit, batteryAge: ageSeconds } = known;
  return {
    partition,
    slot,
    slotted,
    runningSlot: running,
    slotBuild,
    slotPatchLevel: running === true && slotBuild === runs ? known.patchLevel : null,
    device: known.device,
    installed: known.fingerprint,
    sdk: known.sdk,
    exists:
      Object.keys(known.partitions).length === 0
        ? null
        : [name, partition].some((one) => Object.hasOwn(known.partitions, one)),
    partitionBytes: own.size,
    logical: own.logical,
    mode: known.mode,
    unlocked: known.unlocked,
    battery: { percent, fit, ageSeconds },
    snapshot: known.snapshot,
    recoveryHome: known.recoveryHome,
    fuse: known.fuse,
    bootloader: known.bootloader,
    bootloaderLevel: known.bootloaderLevel,
  };
}

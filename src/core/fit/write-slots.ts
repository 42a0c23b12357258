/* One slot or two, one or both to write (docs/method.md, "Which partition carries root"). */

export interface WriteSlotsInput {
  readonly slotCount: number | null;
  readonly activeSlot: string | null;
  /** Whether the bootloader says the partition has slots; null where it was not read. */
  readonly hasSlot: boolean | null;
  /** What a package's list of writes says of the partition. */
  readonly packageSlots: 'one' | 'both' | null;
}

export interface WriteSlots {
  /** Names of the slots to write; `-` where the partition has none. Empty while it can't be told. */
  readonly slots: readonly string[];
  readonly reason: string;
}

/** Every write names its slot. */
export function writeSlotsOf({ slotCount, activeSlot, hasSlot, packageSlots }: WriteSlotsInput): WriteSlots {
  if (slotCount === 1 || hasSlot === false)
    return {
      slots: ['-'],
      reason:
        hasSlot === false ? 'The bootloader says this partition has no slots.' : 'This handset has one slot.',
    };
  if (packageSlots === 'both')
    return { slots: ['a', 'b'], reason: 'The package’s own list writes both slots.' };
  if (activeSlot === null) return { slots: [], reason: 'The active slot was never read.' };
  return {
    slots: [activeSlot],
    reason: `Slot ${activeSlot} is active; the other stays as it is, as a way back.`,
  };
}

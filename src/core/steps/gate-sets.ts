import type { GateId } from '../words/gates';

/* Gates that several steps share, in the order in which they are read. */

export const NONE: readonly GateId[] = [];
/** The stock image of the slot from the bootloader. */
export const STOCK = [
  'image-build',
  'image-partition',
  'root-sources',
  'sources',
  'image-proof',
  'stock-kept',
  'unlocked',
  'slot',
  'room',
  'battery',
  'tool',
  'listed',
] as const;
/** A patched image from there: its kit has to be made for the release too. */
export const PATCHED = [...STOCK, 'kit'] as const;
export const STOCK_RECOVERY = [
  'image-build',
  'image-partition',
  'sources',
  'stock-kept',
  'unlocked',
  'slot',
  'room',
  'battery',
  'tool',
  'listed',
] as const;
/** Everything of a build from outside. */
export const WHOLE = [
  'sources',
  'stock-kept',
  'parts-kept',
  'unlocked',
  'slot',
  'battery',
  'whole',
  'fuse',
  'maker-floor',
  'snapshot',
  'tool',
  'listed',
] as const;
/** A firmware set in download mode. */
export const SET = [...WHOLE, 'region-part'] as const;

import type { FaultId, What } from '../words/observe';

/* What a step is to have done, and what was seen of it (docs/method.md, "Expectation and observation"). */

export const OBSERVED_STEPS = [
  'read-facts',
  'enter',
  'list',
  'write',
  'start',
  'start-once',
  'unlock',
  'lock',
  'push',
  'sideload',
  'erase',
  'prove-root',
  'prove-stock',
  'read-back',
] as const;
export type ObservedStep = (typeof OBSERVED_STEPS)[number];

export const OBSERVED_MODES = [
  'system',
  'bootloader',
  'userspace',
  'download',
  'recovery',
  'sideload',
] as const;
export type ObservedMode = (typeof OBSERVED_MODES)[number];

/** Builds by fingerprint and number; hashes are SHA-256 in lower-case hex, sizes bytes. */
export interface ObserveExpectation {
  readonly step: ObservedStep;
  /** The mode that the step works in; of `enter`, `start` and `start-once` the one it leads to. */
  readonly mode?: ObservedMode;
  readonly serial?: string;
  /** Code name. */
  readonly product?: string;
  readonly slot?: 'a' | 'b';
  /** Without its slot. */
  readonly partition?: string;
  readonly lock?: 'unlocked' | 'locked';
  /** The images that a step writes one after another, where it writes all of a build. */
  readonly parts?: readonly WantedPart[];
  readonly image?: { readonly sha256?: string; readonly size?: number; readonly file?: string };
  readonly build?: { readonly fingerprint?: string; readonly buildId?: string };
  /** Its data was erased in this round: the recovery can't mount it yet. */
  readonly freshWipe?: boolean;
  /** Files whose hashes have to be shown, all of them. */
  readonly files?: readonly { readonly file: string; readonly sha256: string }[];
  /** Lines that its model's own tool prints, as a person said them. */
  readonly words?: { readonly done: readonly string[]; readonly refused: readonly string[] };
  /** Has to be seen besides what every step of its kind needs. */
  readonly also?: readonly What[];
}

/** An image of a whole build: its partition, the slots that it goes to (null on a handset with one), bytes. */
export interface WantedPart {
  readonly partition: string;
  readonly slots: readonly ('a' | 'b' | null)[];
  readonly size: number | null;
}

/** An image that was said to be written, and the line that says so. */
export interface WrittenPart {
  readonly partition: string;
  readonly slot: 'a' | 'b' | null;
  readonly line: number;
}

export type Witness = 'system' | 'bootloader' | 'recovery' | 'tool' | 'person';

/** Lines are counted from 1. */
export interface Met {
  readonly what: What;
  readonly seen: string;
  readonly line: number;
}
export interface Differs extends Met {
  readonly expected: string;
}

/** A line that says that something failed. */
export interface Fault {
  readonly id: FaultId;
  readonly line: number;
}

export interface Observation {
  readonly verdict: 'met' | 'otherwise' | 'not-enough';
  /** Who is to be believed for it; null where nothing was understood. */
  readonly witness: Witness | null;
  readonly met: readonly Met[];
  readonly differs: readonly Differs[];
  /** What is still to be seen. */
  readonly missing: readonly What[];
  readonly harmless: readonly { readonly line: number; readonly why: string }[];
  readonly fault: Fault | null;
  /** Of a whole build: the images that were said to be written. */
  readonly written?: readonly WrittenPart[];
  /** Lines that were not understood. */
  readonly unknown: readonly number[];
  /** What to do now. */
  readonly next: string;
}

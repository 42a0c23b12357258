import type { GateId, Saw } from '../words/gates';

export type Verdict = 'holds' | 'fails' | 'unknown';

/** A check as far as it decides whether a step may begin. */
export interface Verdicted {
  readonly id: string;
  readonly verdict: Verdict;
  /** Whether the person may go on all the same, with a typed reason for the log. */
  readonly overridable: boolean;
}

/** Something that must hold before a step, with what was seen of it. */
export interface Check extends Verdicted {
  readonly id: GateId;
  readonly saw: Saw;
}

export interface Override {
  readonly checkId: string;
  readonly reason: string;
}

/**
 * What a person may know where Eterno doesn't. Only these may be gone past, and only while they are unknown:
 * what was seen to fail never.
 */
export const MAY_BE_UNKNOWN: readonly GateId[] = [
  'root-sources',
  'parts-kept',
  'maker-floor',
  'unlocked',
  'slot',
  'room',
  'kit',
  'battery',
  'backup',
  'tool',
  'listed',
  'snapshot',
  'merging',
  'switch',
  'index',
  'recovery-handset',
  'region-part',
  'root-app',
];

/** @param value null where nobody knows */
export const verdictOf = (value: boolean | null): Verdict =>
  value === null ? 'unknown' : value ? 'holds' : 'fails';

/** @param value null where nobody knows */
export function checkOf(id: GateId, value: boolean | null, saw: Saw): Check {
  const verdict = verdictOf(value);
  return { id, verdict, saw, overridable: verdict === 'unknown' && MAY_BE_UNKNOWN.includes(id) };
}

/** Checks that keep a step locked: those that do not hold and were not overridden (or can't be). */
export function blocking<T extends Verdicted>(checks: readonly T[], overrides: readonly Override[]): T[] {
  return checks.filter(
    (check) =>
      check.verdict !== 'holds' &&
      !(check.overridable && overrides.some((o) => o.checkId === check.id && o.reason.trim() !== '')),
  );
}

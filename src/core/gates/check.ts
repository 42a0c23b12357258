import type { GateId } from '../steps/deed';

/** Something that must hold before a step, with the evidence for it. */
export interface Check {
  readonly id: string;
  readonly title: string;
  readonly verdict: 'holds' | 'fails' | 'unknown';
  /** What was seen, in one sentence. */
  readonly evidence: string;
  /** Whether the person may go on all the same, with a typed reason for the log. */
  readonly overridable: boolean;
}

export interface Override {
  readonly checkId: string;
  readonly reason: string;
}

/** What a person may know where Eterno doesn't. Only these may be gone past, and only while they are unknown: what was seen to fail never. */
export const MAY_BE_UNKNOWN: readonly GateId[] = [
  'root-sources',
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
];

/** @param value null where nobody knows */
export function checkOf(id: string, title: string, value: boolean | null, evidence: string): Check {
  const verdict = value === null ? 'unknown' : value ? 'holds' : 'fails';
  return { id, title, verdict, evidence, overridable: verdict === 'unknown' && (MAY_BE_UNKNOWN as readonly string[]).includes(id) };
}

/** Checks that keep a step locked: those that do not hold and were not overridden (or can't be). */
export function blocking(checks: readonly Check[], overrides: readonly Override[]): Check[] {
  return checks.filter(
    (check) => check.verdict !== 'holds' && !(check.overridable && overrides.some((o) => o.checkId === check.id && o.reason.trim() !== '')),
  );
}

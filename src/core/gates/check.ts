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

/** Checks that keep a step locked: those that do not hold and were not overridden (or can't be). */
export function blocking(checks: readonly Check[], overrides: readonly Override[]): Check[] {
  return checks.filter(
    (check) => check.verdict !== 'holds' && !(check.overridable && overrides.some((o) => o.checkId === check.id && o.reason.trim() !== '')),
  );
}

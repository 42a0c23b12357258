/* Whether a handset's next build can be taken now (docs/method.md, "Readiness"). */

export interface Trial {
  readonly outcome: 'worked' | 'looped' | 'misbehaved';
  readonly fingerprint: string;
}

export interface ReadinessInput {
  /** Null where no newer build is known. */
  readonly next: {
    readonly buildId: string;
    readonly fingerprint: string;
    readonly sdk: number | null;
  } | null;
  /** A package of the next build was opened here; or an incremental one whose old image is in the vault. */
  readonly packageOpened: boolean;
  readonly rooted: boolean;
  readonly kits: readonly {
    readonly name: string;
    readonly channel: string;
    /** Inclusive; null where it names no range. */
    readonly sdk: readonly [number, number] | null;
    readonly trials: readonly Trial[];
  }[];
  readonly recovery: { readonly name: string; readonly supports: boolean | null } | null;
  readonly stockKept: boolean;
  /** An update is waiting or merging. */
  readonly snapshot: string | null;
}

export interface Readiness {
  readonly verdict: 'go' | 'hold' | "can't tell" | 'up to date';
  /** What it waits for, or what is missing. */
  readonly reasons: readonly string[];
  readonly sentence: string;
}

/** Go, hold (on what), or can't tell. */
export function judgeReadiness(input: ReadinessInput): Readiness {
  const { next, kits, recovery, rooted, packageOpened, stockKept, snapshot } = input;
  if (!next) return { verdict: 'up to date', reasons: [], sentence: 'No newer build is known.' };
  const holds: string[] = [];
  const unknowns: string[] = [];
  if (snapshot === 'merging') holds.push('the last update is still merging');
  if (rooted) {
    const inRange = kits.filter(
      ({ sdk }) => sdk === null || next.sdk === null || (next.sdk >= sdk[0] && next.sdk <= sdk[1]),
    );
    const looped = (kit: (typeof kits)[number]) =>
      kit.trials.some((trial) => trial.fingerprint === next.fingerprint && trial.outcome !== 'worked');
    const worked = (kit: (typeof kits)[number]) =>
      kit.trials.some((trial) => trial.fingerprint === next.fingerprint && trial.outcome === 'worked');
    const good = inRange.find(worked);
    const fine = inRange.filter((kit) => !looped(kit));
    if (!good) {
      if (kits.length === 0) holds.push('there is no kit in the vault');
      else if (inRange.length === 0) holds.push('no kit supports its platform level yet');
      else if (fine.length === 0) holds.push(`${inRange[0]!.name} failed on it`);
      else if (!fine.some(({ channel }) => channel === 'stable'))
        holds.push('only a preview of the kit supports it');
    }
    if (!stockKept) holds.push('the stock image of the installed build is not in the vault');
    if (recovery?.supports === false) holds.push(`${recovery.name} does not support it yet`);
    if (recovery?.supports === null) unknowns.push(`whether ${recovery.name} supports it`);
  }
  if (!packageOpened) unknowns.push('what its package holds: open it under Firmware');
  if (holds.length > 0)
    return { verdict: 'hold', reasons: holds, sentence: `Hold ${next.buildId}: ${holds.join('; ')}.` };
  if (unknowns.length > 0)
    return {
      verdict: "can't tell",
      reasons: unknowns,
      sentence: `Not known for ${next.buildId}: ${unknowns.join('; ')}.`,
    };
  return { verdict: 'go', reasons: [], sentence: `${next.buildId} can be taken.` };
}

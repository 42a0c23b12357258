import type { ReadinessReason } from '../words/readiness';

/* Whether a handset's next build can be taken now (docs/method.md, "Readiness"). */

export interface Trial {
  readonly outcome: 'worked' | 'looped' | 'misbehaved';
  readonly fingerprint: string;
}

export interface KitTried {
  readonly name: string;
  readonly channel: string;
  /** Inclusive; null where it names no range. */
  readonly sdk: readonly [number, number] | null;
  readonly trials: readonly Trial[];
}

export interface NextBuild {
  readonly buildId: string;
  readonly fingerprint: string;
  readonly sdk: number | null;
}

export interface ReadinessInput {
  /** Null where no newer build is known. */
  readonly next: NextBuild | null;
  /** A package of the next build was opened here; or an incremental one whose old image is in the vault. */
  readonly packageOpened: boolean;
  readonly rooted: boolean;
  readonly kits: readonly KitTried[];
  readonly recovery: { readonly name: string; readonly supports: boolean | null } | null;
  readonly stockKept: boolean;
  /** An update is waiting or merging. */
  readonly snapshot: string | null;
}

export interface Readiness {
  readonly verdict: 'go' | 'hold' | "can't tell" | 'up to date';
  /** Build number of the next build; null where no newer one is known. */
  readonly build: string | null;
  /** What it waits for, or what is missing. */
  readonly reasons: readonly ReadinessReason[];
}

/** Go, hold (on what), or can't tell. */
export function judgeReadiness(input: ReadinessInput): Readiness {
  const { next, rooted, packageOpened, snapshot } = input;
  if (!next) return { verdict: 'up to date', build: null, reasons: [] };
  const build = next.buildId;
  const holds: ReadinessReason[] = [
    ...(snapshot === 'merging' ? [{ code: 'merging' } as const] : []),
    ...(rooted ? holdsOfRoot(next, input) : []),
  ];
  if (holds.length > 0) return { verdict: 'hold', build, reasons: holds };
  const unknowns: ReadinessReason[] = [
    ...(rooted && input.recovery?.supports === null
      ? [{ code: 'recovery-unknown', recovery: input.recovery.name } as const]
      : []),
    ...(packageOpened ? [] : [{ code: 'package-unopened' } as const]),
  ];
  if (unknowns.length > 0) return { verdict: "can't tell", build, reasons: unknowns };
  return { verdict: 'go', build, reasons: [] };
}

/** What a rooted handset waits for besides. */
function holdsOfRoot(next: NextBuild, { kits, recovery, stockKept }: ReadinessInput): ReadinessReason[] {
  const kit = kitHolds(next, kits);
  return [
    ...(kit ? [kit] : []),
    ...(stockKept ? [] : [{ code: 'stock-not-kept' } as const]),
    ...(recovery?.supports === false
      ? [{ code: 'recovery-unsupported', recovery: recovery.name } as const]
      : []),
  ];
}

/** Why no kit can be taken for a build; null where one worked on it, or a stable one has not failed. */
function kitHolds(next: NextBuild, kits: readonly KitTried[]): ReadinessReason | null {
  const inRange = kits.filter(
    ({ sdk }) => sdk === null || next.sdk === null || (next.sdk >= sdk[0] && next.sdk <= sdk[1]),
  );
  const tried = ({ trials }: KitTried, worked: boolean) =>
    trials.some((trial) => trial.fingerprint === next.fingerprint && (trial.outcome === 'worked') === worked);
  if (inRange.some((kit) => tried(kit, true))) return null;
  if (kits.length === 0) return { code: 'no-kit' };
  const [first] = inRange;
  if (!first) return { code: 'no-kit-for-level' };
  const unharmed = inRange.filter((kit) => !tried(kit, false));
  if (unharmed.length === 0) return { code: 'kit-failed', kit: first.name };
  return unharmed.some(({ channel }) => channel === 'stable') ? null : { code: 'only-preview' };
}

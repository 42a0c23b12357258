import { byFactOrder, factKind, factWord } from './catalogue';
import type { Dispute } from '../words/dispute';

/*
 * Several sources, one handset: which report counts, which contradict each other, which are stale
 * (docs/method.md, "Facts and their sources").
 */

export type FactSource = 'typed' | 'pasted' | 'link' | 'file';
/** `model`: nobody said it of this handset, and somebody did of another of its model. */
export type ReportSource = FactSource | 'model';
/** Who speaks: the running system, its bootloader, an image's own data, or a person. */
export type Witness = 'system' | 'bootloader' | 'image' | 'person';

export interface FactReport {
  readonly key: string;
  readonly value: string;
  readonly source: ReportSource;
  readonly witness: Witness;
  /** UTC milliseconds. */
  readonly at: number;
}

/** A person's choice between sources that differ. It holds until something newer contradicts it. */
export interface FactChoice {
  readonly key: string;
  readonly value: string;
  readonly at: number;
}

export interface Contradiction {
  /** A claim of a rooted system gives way to evidence; between equals the person chooses. */
  readonly kind: 'claim against evidence' | 'sources differ';
  readonly others: readonly FactReport[];
  /** Whether the person chose; a claim is only settled by a new reading. */
  readonly chosen: boolean;
}

export interface ResolvedFact extends FactReport {
  /** It comes from a system that ran with root, which modules can make say anything. */
  readonly claim: boolean;
  readonly stale: boolean;
  readonly contradiction: Contradiction | null;
  /** The newest report of each witness, newest first. */
  readonly reports: readonly FactReport[];
}

export interface ResolveContext {
  readonly now: number;
  /** Whether root was on when something was told. */
  readonly rootedAt: (at: number) => boolean;
  readonly choices: readonly FactChoice[];
  /**
   * When something was done to the handset that changes what it says: readings from before and after speak of
   * different moments.
   */
  readonly doneAt?: readonly number[];
}

/** Readings within one sitting speak of the same moment. */
export const SITTING_MS = 60 * 60 * 1000;
const DAY_MS = 86_400_000;
/** A value that is a list, or names a part once for each of two modems, is the set of its parts. */
export function isSame(one: string, other: string): boolean {
  if (one === other) return true;
  const [a, b] = [one, other].map((value) => new Set(value.split(',').map((part) => part.trim())));
  return a!.size === b!.size && [...a!].every((part) => b!.has(part));
}

const isEvidence = (report: FactReport) => report.witness === 'bootloader' || report.witness === 'image';

/** The report that counts for each key, with what contradicts it. */
export function resolveFacts(reports: readonly FactReport[], context: ResolveContext): ResolvedFact[] {
  const byKey = new Map<string, FactReport[]>();
  for (const report of reports) byKey.set(report.key, [...(byKey.get(report.key) ?? []), report]);
  return [...byKey]
    .map(([key, told]) => resolveOne(key, told, context))
    .sort((a, b) => byFactOrder(a.key, b.key));
}

function newestByWitness(told: readonly FactReport[]): FactReport[] {
  const newest = new Map<Witness, FactReport>();
  for (const report of told) {
    const known = newest.get(report.witness);
    if (!known || report.at >= known.at) newest.set(report.witness, report);
  }
  return [...newest.values()].sort((a, b) => b.at - a.at || Number(isEvidence(b)) - Number(isEvidence(a)));
}

function resolveOne(
  key: string,
  told: readonly FactReport[],
  { now, rootedAt, choices, doneAt = [] }: ResolveContext,
): ResolvedFact {
  const reports = newestByWitness(told);
  const isClaim = (report: FactReport) => report.witness === 'system' && rootedAt(report.at);
  const kind = factKind(key);
  // what has changed since is no contradiction; a claim outdates evidence only where something was done to
  // the handset in between
  const changed = (one: FactReport, other: FactReport) => doneAt.some((at) => one.at < at && at <= other.at);
  const outdates = (other: FactReport, one: FactReport) =>
    (kind.byItself === true && other.at > one.at) ||
    changed(one, other) ||
    (other.at - one.at > SITTING_MS && !(isClaim(other) && isEvidence(one)));
  const standing = reports.filter(
    (one) =>
      !kind.changes || !reports.some((other) => !isSame(other.value, one.value) && outdates(other, one)),
  );
  const evidence = standing.find(isEvidence);
  const first = standing[0]!;
  const claimBeaten =
    evidence !== undefined && standing.some((one) => isClaim(one) && !isSame(one.value, evidence.value));
  let winner = claimBeaten ? evidence : first;
  const differing = standing.filter((one) => !isSame(one.value, winner.value));
  let chosen = false;
  if (!claimBeaten && differing.length > 0) {
    const choice = choices.find((one) => one.key === key);
    const picked = choice && standing.find((one) => one.value === choice.value);
    if (choice && picked && standing.every((one) => one.value === choice.value || one.at <= choice.at)) {
      winner = picked;
      chosen = true;
    }
  }
  const others = standing.filter((one) => !isSame(one.value, winner.value));
  return {
    ...winner,
    claim: isClaim(winner),
    stale: kind.staleDays !== null && now - winner.at > kind.staleDays * DAY_MS,
    contradiction:
      others.length === 0
        ? null
        : { kind: claimBeaten ? 'claim against evidence' : 'sources differ', others, chosen },
    reports,
  };
}

/** What keeps a round from a write: facts whose sources contradict each other and that nobody settled. */
export function openContradictions(facts: readonly ResolvedFact[]): Dispute[] {
  // an update that waits has selected its slot already, while the other one still runs
  const waits = facts.some(({ key, value }) => key === 'snapshot' && value === 'snapshotted');
  return facts.flatMap(({ key, value, witness, contradiction }) => {
    if (!contradiction || contradiction.chosen || (waits && key === 'currentSlot')) return [];
    const other = contradiction.others[0]!;
    return [
      {
        key,
        fact: factKind(key).label,
        first: { witness, value: factWord(value) },
        other: { witness: other.witness, value: factWord(other.value) },
      },
    ];
  });
}

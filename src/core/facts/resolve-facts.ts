import { byFactOrder, factKind, factWord } from './catalogue';

/*
 * Several sources, one handset: which telling counts, which contradict each other, which are stale
 * (docs/method.md, "Facts and their sources").
 */

export type FactSource = 'typed' | 'pasted' | 'link' | 'file';
/** Who speaks: the running system, its bootloader, an image's own data, or a person. */
export type Witness = 'system' | 'bootloader' | 'image' | 'person';

export interface Telling {
  readonly key: string;
  readonly value: string;
  readonly source: FactSource;
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
  readonly others: readonly Telling[];
  /** Whether the person chose; a claim is only settled by a new reading. */
  readonly chosen: boolean;
}

export interface ResolvedFact extends Telling {
  /** It comes from a system that ran with root, which modules can make say anything. */
  readonly claim: boolean;
  readonly stale: boolean;
  readonly contradiction: Contradiction | null;
  /** The newest telling of each witness, newest first. */
  readonly tellings: readonly Telling[];
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
const isEvidence = (telling: Telling) => telling.witness === 'bootloader' || telling.witness === 'image';

/** The telling that counts for each key, with what contradicts it. */
export function resolveFacts(tellings: readonly Telling[], context: ResolveContext): ResolvedFact[] {
  const byKey = new Map<string, Telling[]>();
  for (const telling of tellings) byKey.set(telling.key, [...(byKey.get(telling.key) ?? []), telling]);
  return [...byKey]
    .map(([key, told]) => resolveOne(key, told, context))
    .sort((a, b) => byFactOrder(a.key, b.key));
}

function newestByWitness(told: readonly Telling[]): Telling[] {
  const newest = new Map<Witness, Telling>();
  for (const telling of told) {
    const known = newest.get(telling.witness);
    if (!known || telling.at >= known.at) newest.set(telling.witness, telling);
  }
  return [...newest.values()].sort((a, b) => b.at - a.at || Number(isEvidence(b)) - Number(isEvidence(a)));
}

function resolveOne(
  key: string,
  told: readonly Telling[],
  { now, rootedAt, choices, doneAt = [] }: ResolveContext,
): ResolvedFact {
  const tellings = newestByWitness(told);
  const isClaim = (telling: Telling) => telling.witness === 'system' && rootedAt(telling.at);
  const kind = factKind(key);
  // what has changed since is no contradiction; a claim outdates evidence only where something was done to
  // the handset in between
  const changed = (one: Telling, other: Telling) => doneAt.some((at) => one.at < at && at <= other.at);
  const outdates = (other: Telling, one: Telling) =>
    (kind.byItself === true && other.at > one.at) ||
    changed(one, other) ||
    (other.at - one.at > SITTING_MS && !(isClaim(other) && isEvidence(one)));
  const standing = tellings.filter(
    (one) => !kind.changes || !tellings.some((other) => other.value !== one.value && outdates(other, one)),
  );
  const evidence = standing.find(isEvidence);
  const first = standing[0]!;
  const claimBeaten =
    evidence !== undefined && standing.some((one) => isClaim(one) && one.value !== evidence.value);
  let winner = claimBeaten ? evidence : first;
  const differing = standing.filter((one) => one.value !== winner.value);
  let chosen = false;
  if (!claimBeaten && differing.length > 0) {
    const choice = choices.find((one) => one.key === key);
    const picked = choice && standing.find((one) => one.value === choice.value);
    if (choice && picked && standing.every((one) => one.value === choice.value || one.at <= choice.at)) {
      winner = picked;
      chosen = true;
    }
  }
  const others = standing.filter((one) => one.value !== winner.value);
  return {
    ...winner,
    claim: isClaim(winner),
    stale: kind.staleDays !== null && now - winner.at > kind.staleDays * DAY_MS,
    contradiction:
      others.length === 0
        ? null
        : { kind: claimBeaten ? 'claim against evidence' : 'sources differ', others, chosen },
    tellings,
  };
}

const SPEAKERS: Readonly<Record<Witness, string>> = {
  system: 'the running system',
  bootloader: 'the bootloader',
  image: 'the image itself',
  person: 'you',
};
export const speakerOf = (witness: Witness) => SPEAKERS[witness];

/** What keeps a round from a write: facts whose sources contradict each other and that nobody settled. */
export function openContradictions(
  facts: readonly ResolvedFact[],
): { readonly key: string; readonly sentence: string }[] {
  return facts.flatMap(({ key, value, witness, contradiction }) => {
    if (!contradiction || contradiction.chosen) return [];
    const other = contradiction.others[0]!;
    return [
      {
        key,
        sentence: `${factKind(key).label}: ${speakerOf(witness)} ${verb(witness)} ${factWord(value)}, ${speakerOf(other.witness)} ${verb(other.witness)} ${factWord(other.value)}.`,
      },
    ];
  });
}

const verb = (witness: Witness) => (witness === 'person' ? 'said' : 'says');

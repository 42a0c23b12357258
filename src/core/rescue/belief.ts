import type { CauseId, CheckId, SymptomId } from '../words/rescue';
import { CAUSE_IDS, CAUSES, CHECK_IDS, CHECKS, NOISE } from './causes';
import type { Factor, RescueRecord } from './record';
import { factorsOf } from './record';

/* What is believed of the causes after what was seen (docs/method.md, "Rescue"). Pure, and the same for the page. */

export interface Answered {
  readonly check: CheckId;
  /** One of its answers; null where the person can't do it, which says nothing. */
  readonly answer: string | null;
}

export interface Seen {
  readonly symptoms: readonly SymptomId[];
  readonly answers: readonly Answered[];
  /** Repairs that were tried and did not bring it back, by the causes that they would have mended. */
  readonly ruledOut?: readonly CauseId[];
}

/** How often each cause was behind it in closed cases. */
export type CaseCounts = Readonly<Partial<Record<CauseId, number>>>;

/** One line of the arithmetic: what multiplies the chance, and why. */
export interface Because {
  readonly times: number;
  readonly why: string;
}
export interface Believed {
  readonly cause: CauseId;
  /** Of 1, over all causes. */
  readonly chance: number;
  /** From the prior on, in the order in which it was multiplied. */
  readonly because: readonly Because[];
}

/** A closed case counts as so much of the hundred that the priors stand for. */
const CASE_WEIGHT = 2;
/** A cause whose repair was tried well is not quite out: the repair may have gone wrong. */
const TRIED = 0.05;

export const answersOf = (check: CheckId): readonly string[] => Object.keys(CHECKS[check].else);

export const likelihood = (check: CheckId, answer: string, cause: CauseId): number =>
  Math.max(NOISE / 2, (CHECKS[check][cause] ?? CHECKS[check].else)[answer] ?? 0);

function becauseOf(cause: CauseId, seen: Seen, factors: readonly Factor[], counts: CaseCounts): Because[] {
  const { prior, sureness, shows } = CAUSES[cause];
  const cases = counts[cause] ?? 0;
  return [
    { times: prior, why: `of a hundred handsets in trouble (${sureness})` },
    ...(cases > 0
      ? [{ times: (prior + CASE_WEIGHT * cases) / prior, why: `${cases} of your own closed cases` }]
      : []),
    ...factors.filter((one) => one.cause === cause).map(({ times, why }) => ({ times, why })),
    ...seen.symptoms.map((symptom) => ({ times: shows[symptom] ?? NOISE, why: symptom })),
    ...seen.answers.flatMap(({ check, answer }) =>
      answer === null ? [] : [{ times: likelihood(check, answer, cause), why: `${check}: ${answer}` }],
    ),
    ...((seen.ruledOut ?? []).includes(cause)
      ? [{ times: TRIED, why: 'what mends it was done, and it is as before' }]
      : []),
  ];
}

/** Every cause with its chance, the likeliest first. */
export function believe(record: RescueRecord, seen: Seen, counts: CaseCounts = {}): Believed[] {
  const factors = factorsOf(record);
  const weighed = CAUSE_IDS.map((cause) => {
    const because = becauseOf(cause, seen, factors, counts);
    return { cause, because, weight: because.reduce((product, { times }) => product * times, 1) };
  });
  const all = weighed.reduce((sum, { weight }) => sum + weight, 0);
  return weighed
    .map(({ cause, because, weight }) => ({ cause, because, chance: weight / all }))
    .sort((a, b) => b.chance - a.chance);
}

const entropy = (chances: readonly number[]) =>
  chances.reduce((sum, chance) => (chance > 0 ? sum - chance * Math.log2(chance) : sum), 0);

export interface NextCheck {
  readonly check: CheckId;
  /** Bits that its answer is worth on average, and minutes that it takes. */
  readonly bits: number;
  readonly minutes: number;
}

/** Checks that can be asked about what shows, what tells most a minute first; those that tell nothing are left out. */
export function nextChecks(believed: readonly Believed[], { symptoms, answers }: Seen): NextCheck[] {
  const before = entropy(believed.map(({ chance }) => chance));
  return CHECK_IDS.flatMap((check): NextCheck[] => {
    const { about, minutes } = CHECKS[check];
    if (answers.some((one) => one.check === check)) return [];
    if (about && !about.some((symptom) => symptoms.includes(symptom))) return [];
    let after = 0;
    for (const answer of answersOf(check)) {
      const joint = believed.map(({ cause, chance }) => chance * likelihood(check, answer, cause));
      const p = joint.reduce((sum, one) => sum + one, 0);
      if (p > 0) after += p * entropy(joint.map((one) => one / p));
    }
    const bits = before - after;
    return bits > LEAST_BITS ? [{ check, bits, minutes }] : [];
  }).sort((a, b) => b.bits / b.minutes - a.bits / a.minutes);
}
const LEAST_BITS = 0.01;

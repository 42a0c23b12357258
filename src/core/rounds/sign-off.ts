import { goesToStock, wantsRoot } from '../planning/goals';
import type { GoalId } from '../planning/context';
import { DEEDS } from '../steps/deeds';
import type { ClaimId } from '../words/claims';
import { CLAIM_WORDS, PUT_BACK_CLAIM } from '../words/claims';
import * as say from '../words/claims';
import type { Evidence } from './evidence';
import type { Round, RoundStep } from './round';

/* What has to be known before a round is closed, and whether it reached what it was for (docs/method.md, "Sign-off"). */

export interface SignOffClaim {
  readonly id: ClaimId | 'put-back';
  readonly claim: string;
  readonly evidence: readonly Evidence[];
  /** Evidence that says no closes nothing; where nobody knows, the claim is open. */
  readonly verdict: 'holds' | 'no' | 'open';
  /** The round has reached its goal only where this claim holds. */
  readonly decides: boolean;
  /** What is missing for it to be strong, or at all; null where nothing is. */
  readonly missing: string | null;
}

export type SignOffStep = Pick<RoundStep, 'key' | 'state' | 'evidence' | 'planned'>;

interface Rule {
  /** Only evidence that names this claim counts: its step tells of several. */
  readonly named?: true;
  /**
   * It holds only where it was granted when it was asked for. Proved it is by two kinds of evidence, one of
   * them not from the root app: the grant, and the running image read back.
   */
  readonly granted?: true;
  /** It is told, and does not decide whether the goal was reached. */
  readonly told?: true;
}

/** A claim stands in a round that has one of the steps which prove it, or whose goal it is. */
const RULES: Readonly<Partial<Record<ClaimId, Rule>>> = {
  'root-works': { granted: true },
  // a second start is asked for, and nobody has to wait for it
  'root-lasts': { named: true, told: true },
  'data-there': { named: true },
  calls: { named: true },
  // some of these never work beside root: the person knew that before
  payments: { named: true, told: true },
};

/** What a goal claims, whatever steps its round has. */
function claimsOfGoal(goal: GoalId): readonly ClaimId[] {
  if (wantsRoot(goal)) return ['goal-build', 'starts', 'root-works', 'root-lasts'];
  if (goesToStock(goal))
    return ['goal-build', 'starts', 'no-root', ...(goal === 'lock again' ? (['locked'] as const) : [])];
  if (goal === 'keep a recovery') return ['recovery-opens'];
  if (goal === 'root without unlocking') return ['root-works', 'root-lasts'];
  if (goal === 'prove root') return ['root-works'];
  if (goal === 'install a package') return ['written', 'starts', 'package-there', 'root-works'];
  if (goal === 'downgrade') return ['goal-build', 'starts'];
  // rounds of before there were plans had other words for what they were for
  return goal === 'repair' ? ['starts'] : [];
}

/** They decide even where no step of the round could prove them. */
const GOAL_ITSELF: readonly ClaimId[] = ['goal-build', 'root-works'];

const tells = ({ says }: Evidence) => says === undefined;

/** The last step that saw what runs, if it was the build of the round. */
function goalBuild(steps: readonly SignOffStep[], target: string | null): readonly Evidence[] {
  const last = steps.findLast(
    ({ key, state, evidence }) =>
      state === 'done' && DEEDS[key].proves?.includes('build-known') === true && evidence.some(tells),
  );
  return last && (target === null || last.planned.build === target) ? last.evidence : [];
}

/**
 * Root that was proved after a start from disk is there at the next start too; and what was seen after one more
 * restart.
 */
function rootLasts(steps: readonly SignOffStep[]): readonly Evidence[] {
  const done = steps.filter(({ state }) => state === 'done');
  const proved = done.findLastIndex(
    ({ key, evidence }) => DEEDS[key].proves?.includes('root-works') === true && evidence.some(tells),
  );
  const before = done.slice(0, Math.max(proved, 0));
  const written = before.findLastIndex(({ key }) => DEEDS[key].writes !== null);
  const started = before.findLastIndex(({ key }) => DEEDS[key].starts === true);
  const again = done.flatMap(({ evidence }) => evidence).filter(({ about }) => about === 'root-lasts');
  return [
    ...(proved >= 0 && started > written
      ? [{ what: say.AFTER_A_START, strength: 'strong', about: 'root-lasts' } as const]
      : []),
    ...again.map((one) => ({ ...one, what: say.afterAnother(one.what) })),
  ];
}

function evidenceFor(id: ClaimId, steps: readonly SignOffStep[], target: string | null): readonly Evidence[] {
  if (id === 'goal-build') return goalBuild(steps, target);
  if (id === 'root-lasts') return rootLasts(steps);
  return steps
    .filter(({ key, state }) => state === 'done' && DEEDS[key].proves?.includes(id) === true)
    .flatMap((step) => step.evidence)
    .filter(({ about }) => about === id || (about === undefined && RULES[id]?.named !== true));
}

const speaksAlone = (one: Evidence) => tells(one) && one.kind !== 'identity';
const isGrant = (one: Evidence) => tells(one) && one.kind === undefined;

function verdictOf(id: ClaimId, evidence: readonly Evidence[]): SignOffClaim['verdict'] {
  if (evidence.some(({ says }) => says === 'no')) return 'no';
  return evidence.some(RULES[id]?.granted ? isGrant : speaksAlone) ? 'holds' : 'open';
}

function openWords(id: ClaimId, evidence: readonly Evidence[]): string {
  if (id === 'root-lasts') return say.START_ONCE_MORE;
  return RULES[id]?.granted && evidence.some(tells) ? say.ASK_FOR_ROOT : say.NO_EVIDENCE;
}

function missingOf(
  id: ClaimId,
  verdict: SignOffClaim['verdict'],
  evidence: readonly Evidence[],
): string | null {
  if (verdict === 'no') return say.SAYS_NO;
  if (verdict === 'open') return openWords(id, evidence);
  if (!RULES[id]?.granted) return null;
  const strong = evidence.filter((one) => one.strength === 'strong' && speaksAlone(one));
  // those of before there were kinds are told apart by their number
  const grants = strong.filter(isGrant).length;
  return grants + (strong.length > grants ? 1 : 0) < 2 ? say.TWO_KINDS : null;
}

/**
 * Every claim of a round with its evidence.
 * @param putBacks temporary changes that are still open
 * @param elsewhere what was seen outside the round's steps, each of the claim that it names
 */
export function signOff(
  { kind, target }: Pick<Round, 'kind' | 'target'>,
  steps: readonly SignOffStep[],
  putBacks: readonly string[],
  elsewhere: readonly Evidence[] = [],
): SignOffClaim[] {
  const goal = claimsOfGoal(kind);
  const hasStep = (id: ClaimId) => steps.some(({ key }) => DEEDS[key].proves?.includes(id) === true);
  // what is written back on the way is no goal
  const stands = (id: ClaimId) => goal.includes(id) || (id !== 'no-root' && hasStep(id));
  const claims = (Object.keys(CLAIM_WORDS) as ClaimId[]).filter(stands).map((id): SignOffClaim => {
    const evidence = [...evidenceFor(id, steps, target), ...elsewhere.filter(({ about }) => about === id)];
    const verdict = verdictOf(id, evidence);
    return {
      id,
      claim: CLAIM_WORDS[id],
      evidence,
      verdict,
      decides: RULES[id]?.told !== true && (GOAL_ITSELF.includes(id) || hasStep(id)),
      missing: missingOf(id, verdict, evidence),
    };
  });
  const undone = putBacks.length === 0;
  return [
    ...claims,
    {
      id: 'put-back',
      claim: PUT_BACK_CLAIM,
      evidence: undone ? [{ what: say.NOTHING_OPEN, strength: 'strong' }] : [],
      verdict: undone ? 'holds' : 'open',
      // it is carried over by name
      decides: false,
      missing: undone ? null : putBacks.join('; '),
    },
  ];
}

/** What stands between a round and its goal. */
export const unreached = (claims: readonly SignOffClaim[]) =>
  claims.filter(({ decides, verdict }) => decides && verdict !== 'holds');

import type { ClaimId } from '../steps/deed';
import { CLAIM_IDS } from '../steps/deed';
import { DEEDS } from '../steps/deeds';
import type { Evidence } from './evidence';
import type { RoundStep } from './round';

/* What has to be known before a round is closed (docs/method.md, "Sign-off"). */

export interface SignOffClaim {
  readonly id: ClaimId | 'put-back';
  readonly claim: string;
  readonly evidence: readonly Evidence[];
  /** What is missing for it to be strong, or at all; null where nothing is. */
  readonly missing: string | null;
}

type SignOffStep = Pick<RoundStep, 'key' | 'state' | 'evidence'>;

interface Rule {
  readonly claim: string;
  /** Only evidence that names this claim counts: its step tells of several. */
  readonly named?: true;
  /**
   * Strong kinds of evidence that it wants. Root wants two, one of them not from the root app: a grant, and
   * the running image read back.
   */
  readonly kinds?: 2;
}

/** A claim stands in a round that has one of the steps which prove it. */
const RULES: Readonly<Record<ClaimId, Rule>> = {
  'build-known': { claim: 'The build that runs is known' },
  'image-proved': { claim: 'The image belongs to its build and is proved' },
  written: { claim: 'What was to be written is on the handset' },
  starts: { claim: 'The handset starts' },
  'root-works': { claim: 'Root works', kinds: 2 },
  'recovery-opens': { claim: 'The recovery opens' },
  'data-imaged': { claim: 'An image of its data is kept off the handset' },
  merged: { claim: 'The update has merged' },
  'modules-back': { claim: 'The modules are back' },
  locked: { claim: 'It is locked' },
  'data-there': { claim: 'Data is there', named: true },
  calls: { claim: 'Calls and mobile data', named: true },
  payments: { claim: 'Payments and work apps', named: true },
};

/** Every claim of a round with its evidence; `putBacks` are the temporary changes that are still open. */
export function signOff(steps: readonly SignOffStep[], putBacks: readonly string[]): SignOffClaim[] {
  const provingOf = (id: ClaimId) => steps.filter(({ key }) => DEEDS[key].proves?.includes(id) === true);
  const claims = CLAIM_IDS.filter((id) => provingOf(id).length > 0).map((id): SignOffClaim => {
    const { claim, kinds, named } = RULES[id];
    const evidence = provingOf(id)
      .filter(({ state }) => state === 'done')
      .flatMap((step) => step.evidence)
      .filter(({ about }) => about === id || (about === undefined && named !== true));
    const strong = evidence.filter(({ strength }) => strength === 'strong').length;
    const missing =
      evidence.length === 0
        ? 'no evidence yet'
        : kinds !== undefined && strong < kinds
          ? 'two kinds of evidence, one of them not from the root app, would prove it'
          : null;
    return { id, claim, evidence, missing };
  });
  return [
    ...claims,
    {
      id: 'put-back',
      claim: 'Every temporary change is undone',
      evidence: putBacks.length === 0 ? [{ what: 'nothing is open', strength: 'strong' }] : [],
      missing: putBacks.length === 0 ? null : putBacks.join('; '),
    },
  ];
}

/** What keeps a round open. */
export const unproved = (claims: readonly SignOffClaim[]) =>
  claims.filter(({ evidence }) => evidence.length === 0);

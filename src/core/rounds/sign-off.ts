import type { ClaimId } from '../steps/deeds';
import { CLAIM_IDS, DEEDS } from '../steps/deeds';
import type { Evidence } from './evidence';
import type { StepKey } from '../steps/step-kind';

/* What has to be known before a round is closed (docs/method.md, "Sign-off"). */

export interface SignOffClaim {
  readonly claim: string;
  readonly evidence: readonly Evidence[];
  /** What is missing for it to be strong, or at all; null where nothing is. */
  readonly missing: string | null;
}

export interface SignOffStep {
  readonly key: StepKey;
  readonly state: string;
  readonly evidence: readonly Evidence[];
}

interface Rule {
  readonly claim: string;
  /** Only evidence that speaks of this, where the step tells several things. */
  readonly about?: RegExp;
  /** Strong kinds of evidence that it wants. Root wants two, one of them not from the root app: a grant, and the running image read back. */
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
  'data-imaged': { claim: 'An image of its data lies off the handset' },
  merged: { claim: 'The update has merged' },
  'modules-back': { claim: 'The modules are back' },
  locked: { claim: 'It is locked' },
  'data-there': { claim: 'Data is there', about: /^data:/i },
  calls: { claim: 'Calls and mobile data', about: /^calls/i },
  payments: { claim: 'Payments and work apps', about: /^payments/i },
};

/** Every claim of a round with its evidence; `putBacks` are the temporary changes that are still open. */
export function signOff(steps: readonly SignOffStep[], putBacks: readonly string[]): SignOffClaim[] {
  const provingOf = (id: ClaimId) => steps.filter(({ key }) => DEEDS[key].proves?.includes(id) === true);
  const claims = CLAIM_IDS.filter((id) => provingOf(id).length > 0).map((id): SignOffClaim => {
    const { claim, about, kinds } = RULES[id];
    const evidence = provingOf(id)
      .filter(({ state }) => state === 'done')
      .flatMap((step) => step.evidence)
      .filter(({ what }) => about === undefined || about.test(what));
    const strong = evidence.filter(({ strength }) => strength === 'strong').length;
    const missing =
      evidence.length === 0
        ? 'no evidence yet'
        : kinds !== undefined && strong < kinds
          ? 'two kinds of evidence, one of them not from the root app, would prove it'
          : null;
    return { claim, evidence, missing };
  });
  return [
    ...claims,
    {
      claim: 'What was changed for a while is put back',
      evidence: putBacks.length === 0 ? [{ what: 'nothing is open', strength: 'strong' }] : [],
      missing: putBacks.length === 0 ? null : putBacks.join('; '),
    },
  ];
}

/** What keeps a round open. */
export const unproved = (claims: readonly SignOffClaim[]) => claims.filter(({ evidence }) => evidence.length === 0);

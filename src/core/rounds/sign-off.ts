import { WHOLE_WRITES } from '../planning/limits';
import type { Evidence } from './evidence';
import type { StepKey } from './step-kind';

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
  readonly from: readonly StepKey[];
  /** Only evidence that speaks of this, where the step tells several things. */
  readonly about?: RegExp;
}

/** A claim stands in a round that has one of its steps. */
const RULES: readonly Rule[] = [
  { claim: 'The build that runs is known', from: ['read-facts', 'start', 'finish-start'] },
  { claim: 'The image belongs to its build and is proved', from: ['patch', 'patch-target', 'patch-there', 'patch-target-there', 'patch-other-slot'] },
  {
    claim: 'What was to be written is on the handset',
    from: [
      'write-root',
      'write-stock',
      'write-recovery',
      'write-stock-recovery',
      'root-zip',
      'make-lasting',
      'zip-inside',
      'recovery-inside',
      'older-bootloader',
      'patch-other-slot',
      ...WHOLE_WRITES,
      'sideload',
    ],
  },
  { claim: 'The handset starts', from: ['start', 'finish-start'] },
  { claim: 'Root works', from: ['prove-root'] },
  { claim: 'The recovery opens', from: ['recovery', 'recovery-once'] },
  { claim: 'An image of its data lies off the handset', from: ['back-up-image'] },
  { claim: 'The update has merged', from: ['merge'] },
  { claim: 'The modules are back', from: ['modules-on'] },
  { claim: 'It is locked', from: ['lock'] },
  { claim: 'Data is there', from: ['look-around'], about: /^data:/i },
  { claim: 'Calls and mobile data', from: ['look-around'], about: /^calls/i },
  { claim: 'Payments and work apps', from: ['look-around'], about: /^payments/i },
];

/** Root wants two kinds of evidence, one of them not from the root app: a grant, and the running image read back. */
const TWO_KINDS = 2;

/** Every claim of a round with its evidence; `putBacks` are the temporary changes that are still open. */
export function signOff(steps: readonly SignOffStep[], putBacks: readonly string[]): SignOffClaim[] {
  const claims = RULES.filter((rule) => steps.some((step) => rule.from.includes(step.key))).map((rule): SignOffClaim => {
    const evidence = steps
      .filter((step) => rule.from.includes(step.key) && step.state === 'done')
      .flatMap((step) => step.evidence)
      .filter(({ what }) => rule.about === undefined || rule.about.test(what));
    const strong = evidence.filter(({ strength }) => strength === 'strong').length;
    const missing =
      evidence.length === 0
        ? 'no evidence yet'
        : rule.claim === 'Root works' && strong < TWO_KINDS
          ? 'two kinds of evidence, one of them not from the root app, would prove it'
          : null;
    return { claim: rule.claim, evidence, missing };
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

/** Temporary changes: the step that makes one, the steps that undo it, and its words. */
export const PUT_BACKS: readonly { readonly kind: StepKey; readonly closedBy: readonly StepKey[]; readonly what: string }[] = [
  { kind: 'modules-off', closedBy: ['modules-on'], what: 'The modules are off' },
  { kind: 'stock-back', closedBy: ['start', 'finish-start', 'write-root'], what: 'The stock image lies on disk while root runs' },
  { kind: 'take-update', closedBy: ['merge', 'cancel-update', 'start'], what: 'An update waits for its start' },
  { kind: 'take-full-update', closedBy: ['merge', 'cancel-update', 'start'], what: 'An update waits for its start' },
  { kind: 'start-once', closedBy: ['make-lasting', 'zip-inside'], what: 'Root runs from memory only' },
];

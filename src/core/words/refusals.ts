import { EternoError } from '../errors';
import type { GateId } from './gates';
import { GATE_TITLES } from './gates';
import { lowerFirst } from './sentence';

/* Why a command on a round is not carried out: the code of it, and how a person reads it. */

/** Why a command is not carried out. Each is a code with what it speaks of; its words are made from them. */
export type Refusal =
  | {
      readonly because:
        | 'changed-elsewhere'
        | 'another-step'
        | 'step-runs'
        | 'step-runs-already'
        | 'round-over'
        | 'round-open'
        | 'no-checks';
    }
  | { readonly because: 'checks-open'; readonly checks: readonly GateId[] }
  | { readonly because: 'claims-open'; readonly claims: readonly string[] }
  | { readonly because: 'done-here' | 'no-reason' | 'no-rescue-page' };

const PLAIN: Readonly<
  Record<
    Exclude<Refusal['because'], 'checks-open' | 'claims-open'>,
    readonly ['conflict' | 'refused', string]
  >
> = {
  'changed-elsewhere': ['conflict', 'this round was changed somewhere else meanwhile'],
  'another-step': ['conflict', 'this is not the step to do now'],
  'step-runs': ['conflict', 'a step is running: stop it first'],
  'step-runs-already': ['conflict', 'this step is running already'],
  'round-over': ['conflict', 'this round is over already'],
  'round-open': ['conflict', 'this round is not closed'],
  'no-checks': ['conflict', 'this step has no checks'],
  'done-here': ['refused', 'This step is done in Eterno itself; saying that it is done is not enough.'],
  'no-reason': ['refused', 'Not yet: say why nothing has to be kept.'],
  'no-rescue-page': ['refused', 'Not yet: download the rescue page, or say why you do without.'],
};

export function refusalError(refusal: Refusal): EternoError {
  if (refusal.because === 'checks-open')
    return new EternoError(
      'refused',
      `Not yet: ${refusal.checks.map((id) => lowerFirst(GATE_TITLES[id])).join('; ')}.`,
    );
  if (refusal.because === 'claims-open')
    return new EternoError('refused', `No evidence yet for: ${refusal.claims.map(lowerFirst).join('; ')}.`);
  return new EternoError(...PLAIN[refusal.because]);
}

import { EternoError } from '../errors';
import type { GateId } from './gates';
import { GATE_TITLES } from './gates';
import type { FaultId, What } from './observe';
import { otherwiseNext } from './observe';
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
  | { readonly because: 'put-backs-open'; readonly what: readonly string[] }
  /** What was shown says otherwise. */
  | {
      readonly because: 'shows-otherwise';
      readonly fault: FaultId | null;
      readonly differs: readonly What[];
    }
  | {
      readonly because:
        | 'done-here'
        | 'no-reason'
        | 'no-rescue-page'
        | 'hash-missing'
        | 'build-unknown'
        | 'not-shown'
        | 'not-in-vault';
    };

export type PlainReason = Exclude<
  Refusal['because'],
  'checks-open' | 'claims-open' | 'put-backs-open' | 'shows-otherwise'
>;

const PLAIN: Readonly<Record<PlainReason, readonly ['conflict' | 'refused', string]>> = {
  'changed-elsewhere': ['conflict', 'this round was changed somewhere else meanwhile'],
  'another-step': ['conflict', 'this is not the step to do now'],
  'step-runs': ['conflict', 'a step is running: stop it first'],
  'step-runs-already': ['conflict', 'this step is running already'],
  'round-over': ['conflict', 'this round is over already'],
  'round-open': ['conflict', 'this round is not closed'],
  'no-checks': ['conflict', 'this step has no checks'],
  'done-here': ['refused', 'This step is done in Eterno itself; saying that it is done is not enough.'],
  'no-reason': ['refused', 'Not yet: say why nothing has to be kept.'],
  'build-unknown': [
    'refused',
    'Not yet: its build is not known. Paste the property dump of the running system; if it does not run, put it on the bench with its build typed.',
  ],
  'not-in-vault': [
    'refused',
    'Not yet: the patched image is not in the vault. Patch the stock image in the Images room, or let Eterno fetch over the link what the handset made.',
  ],
  'not-shown': ['refused', 'This does not show root: paste what the root shell printed.'],
  'hash-missing': ['refused', 'Not yet: paste the hash of every file, as the second handset shows it.'],
  'no-rescue-page': ['refused', 'Not yet: download the rescue page, or say why you do without.'],
};

export function refusalError(refusal: Refusal): EternoError {
  if (refusal.because === 'checks-open')
    return new EternoError(
      'refused',
      `Not yet: ${refusal.checks.map((id) => lowerFirst(GATE_TITLES[id])).join('; ')}.`,
    );
  if (refusal.because === 'claims-open')
    return new EternoError('refused', `Not reached yet: ${refusal.claims.map(lowerFirst).join('; ')}.`);
  if (refusal.because === 'put-backs-open')
    return new EternoError(
      'refused',
      `Still changed for a while: ${refusal.what.join('; ')}. Undo it, or take it along.`,
    );
  if (refusal.because === 'shows-otherwise')
    return new EternoError(
      'refused',
      `What you showed says otherwise. ${otherwiseNext(refusal.fault, refusal.differs)}`,
    );
  return new EternoError(...PLAIN[refusal.because]);
}

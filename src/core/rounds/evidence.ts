import type { ClaimId } from '../steps/deed';

/** One thing that was seen; weak evidence is somebody's word or a sign that can deceive. */
export interface Evidence {
  readonly what: string;
  readonly strength: 'strong' | 'weak';
  /** The claim that it speaks of, where its step tells several things. */
  readonly about?: ClaimId;
  /** Why nothing on the handset has to be kept, in the person's words. */
  readonly nothingKept?: string;
}

import type { ClaimId } from '../words/claims';

/** One thing that was seen; weak evidence is somebody's word or a sign that can deceive. */
export interface Evidence {
  readonly what: string;
  readonly strength: 'strong' | 'weak';
  /** The claim that it speaks of, where its step tells several things. */
  readonly about?: ClaimId;
  /**
   * Bytes that were read out: however often, they are one kind of evidence. Whose text it was: it speaks for
   * what stands beside it, and for nothing alone.
   */
  readonly kind?: 'read-back' | 'identity';
  /** It tells against the claim, or that nobody could tell; where absent it tells for it. */
  readonly says?: 'no' | 'unknown';
  /** Why nothing on the handset has to be kept, in the person's words. */
  readonly nothingKept?: string;
}

import type { ClaimId } from '../words/claims';

/**
 * Bytes that were read out: however often, they are one kind of evidence. Whose text it was: it speaks for what
 * stands beside it, and for nothing alone. All other evidence has no kind.
 */
export const EVIDENCE_KINDS = ['read-back', 'identity'] as const;

/** One thing that was seen; weak evidence is somebody's word or a sign that can deceive. */
export interface Evidence {
  readonly what: string;
  readonly strength: 'strong' | 'weak';
  /** The claim that it speaks of, where its step tells several things. */
  readonly about?: ClaimId;
  readonly kind?: (typeof EVIDENCE_KINDS)[number];
  /** It tells against the claim, or that nobody could tell; where absent it tells for it. */
  readonly says?: 'no' | 'unknown';
  /** Why nothing on the handset has to be kept, in the person's words. */
  readonly nothingKept?: string;
}

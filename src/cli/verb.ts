import { EternoError } from '@/core/errors';
import type { Progress, Watch } from '@/core/ports';

/** What a verb is given beside its arguments. */
export interface VerbContext {
  readonly signal: AbortSignal;
  readonly onProgress?: (progress: Progress) => void;
  /** Files that are there already may be replaced. */
  readonly force?: boolean;
}
export type Verb = (args: readonly string[], context: VerbContext) => Promise<object>;

export const watchOf = ({ signal, onProgress }: VerbContext): Watch => ({
  signal,
  ...(onProgress ? { onProgress } : {}),
});

/** A refusal whose answer says all that was looked at. */
export class RefusedWith extends EternoError {
  constructor(
    readonly out: object,
    message: string,
  ) {
    super('refused', message);
  }
}

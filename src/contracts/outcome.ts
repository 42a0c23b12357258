import type { ErrorData } from '@/core/errors';
import { EternoError, toEternoError } from '@/core/errors';

/** What a server action answers: classes do not survive the way, so errors go as data. */
export type Outcome<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: ErrorData };

/** Runs an action's work; anything thrown becomes data. Yup's messages become `bad-field`. */
export async function outcome<T>(work: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (thrown) {
    // Next's own signals (redirect, not found) are no errors of ours
    if (typeof thrown === 'object' && thrown !== null && 'digest' in thrown) throw thrown;
    const invalid = thrown instanceof Error && thrown.name === 'ValidationError';
    return { ok: false, error: (invalid ? new EternoError('bad-field', thrown.message) : toEternoError(thrown)).toData() };
  }
}

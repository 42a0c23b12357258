import type { InferType, Schema } from 'yup';
import { EternoError, toEternoError } from '@/core/errors';
import type { Outcome } from '@/core/outcome';

export type { Outcome } from '@/core/outcome';

/** Runs an action's work; anything thrown becomes data. Yup's messages become `bad-field`. */
export async function outcome<T>(work: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (thrown) {
    // Next's own signals (redirect, not found) are no errors of ours
    if (typeof thrown === 'object' && thrown !== null && 'digest' in thrown) throw thrown;
    const invalid = thrown instanceof Error && thrown.name === 'ValidationError';
    return {
      ok: false,
      error: (invalid ? new EternoError('bad-field', thrown.message) : toEternoError(thrown)).toData(),
    };
  }
}

/** Checks what came by its schema, then does the work with it. */
export const checked = <S extends Schema, T>(
  schema: S,
  input: unknown,
  work: (value: InferType<S>) => Promise<T>,
): Promise<Outcome<T>> =>
  outcome(async () => work((await schema.validate(input, { stripUnknown: true })) as InferType<S>));

import type { ErrorData } from './errors';
import { EternoError, toEternoError } from './errors';

/** A result that can cross a thread or the network: classes do not survive the way, so errors go as data. */
export type Outcome<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: ErrorData };

export async function settle<T>(work: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (thrown) {
    return { ok: false, error: toEternoError(thrown).toData() };
  }
}

/** @throws {EternoError} the error that came over */
export function unsettle<T>(outcome: Outcome<T>): T {
  if (!outcome.ok) throw EternoError.fromData(outcome.error);
  return outcome.value;
}

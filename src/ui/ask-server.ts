import type { Outcome } from '@/contracts/outcome';
import { EternoError } from '@/core/errors';

/* Asking the server where it may be gone: that is an answer too, and the page stays as it is. */

const GONE = 'eterno-server-gone';

/** Tells when somebody found the server gone. @returns how to stop listening */
export function onServerGone(listener: () => void): () => void {
  window.addEventListener(GONE, listener);
  return () => window.removeEventListener(GONE, listener);
}

export const serverIsThere = (): Promise<boolean> =>
  fetch('/api/alive', { cache: 'no-store' }).then(
    ({ ok }) => ok,
    () => false,
  );

/** Runs a server action; a server that does not answer is an error like any other. */
export async function askServer<T>(action: () => Promise<Outcome<T>>): Promise<Outcome<T>> {
  try {
    return await action();
  } catch (thrown) {
    if (await serverIsThere()) throw thrown;
    window.dispatchEvent(new Event(GONE));
    return { ok: false, error: new EternoError('server-gone', 'Eterno’s server does not answer.').toData() };
  }
}

/** Whether what came back lets the page be made anew. */
export const canRefresh = (result: Outcome<unknown>): boolean =>
  result.ok || result.error.code !== 'server-gone';

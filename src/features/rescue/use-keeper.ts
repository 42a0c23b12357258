'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useRef, useState } from 'react';
import type { CaseState } from '@/contracts/rescue-view';
import type { ErrorData } from '@/core/errors';
import { EternoError } from '@/core/errors';
import type { ClassId } from '@/core/ways/classes';

/** Whose case it is. */
interface Whose {
  readonly handsetId: string | null;
  readonly like: ClassId | null;
}

async function post(body: Whose & { readonly state: CaseState }): Promise<ErrorData | null> {
  try {
    const response = await fetch('/api/rescue/case', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
      // a page that is left at this moment still gets it through
      keepalive: true,
    });
    return response.ok ? null : ((await response.json()) as { error: ErrorData }).error;
  } catch {
    return new EternoError('server-gone', 'Eterno’s server does not answer: the case is not kept.').toData();
  }
}

/**
 * Keeps a case at each turn, one request at a time; of turns that come quicker only the last is sent.
 * @param isNew the store knows nothing of the case yet: the page hears of it once
 */
export function useKeeper({ handsetId, like }: Whose, isNew: boolean) {
  const router = useRouter();
  const [isKept, setKept] = useState(!isNew);
  const [error, setError] = useState<ErrorData | null>(null);
  const turn = useRef<{ next: CaseState | null; under: Promise<void> | null; told: boolean }>({
    next: null,
    under: null,
    told: !isNew,
  });
  const keep = useCallback(
    (state: CaseState) => {
      const own = turn.current;
      const sendAll = async () => {
        let failed: ErrorData | null = null;
        while (own.next !== null) {
          const sent = own.next;
          own.next = null;
          failed = await post({ handsetId, like, state: sent });
        }
        own.under = null;
        setError(failed);
        setKept(failed === null);
        if (own.told || failed !== null) return;
        own.told = true;
        router.refresh();
      };
      own.next = state;
      setKept(false);
      own.under ??= sendAll();
    },
    [handsetId, like, router],
  );
  /** Nothing of the case is on its way any more. */
  const settled = useCallback(async () => turn.current.under ?? undefined, []);
  return { keep, settled, isKept, error, dismiss: () => setError(null) };
}

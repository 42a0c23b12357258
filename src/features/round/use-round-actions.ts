'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useMemo, useState, useTransition } from 'react';
import type { Outcome } from '@/contracts/outcome';
import type { RoundView } from '@/contracts/round-view';
import type { ErrorData } from '@/core/errors';
import { askServer, canRefresh } from '@/ui/ask-server';

/** Runs a round's actions one at a time; an error stays shown, a conflict makes the page new. */
export function useRoundActions(round: Pick<RoundView, 'id' | 'version'>) {
  const router = useRouter();
  const [error, setError] = useState<ErrorData | null>(null);
  const [busy, startTransition] = useTransition();
  const at = useMemo(() => ({ roundId: round.id, version: round.version }), [round.id, round.version]);
  const run = useCallback(
    (action: (at: { roundId: string; version: number }) => Promise<Outcome<unknown>>) =>
      startTransition(async () => {
        const result = await askServer(() => action(at));
        setError(result.ok ? null : result.error);
        if (canRefresh(result)) router.refresh();
      }),
    [at, router],
  );
  return { at, run, busy, error, setError };
}
export type RoundActions = ReturnType<typeof useRoundActions>;

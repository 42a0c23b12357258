'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useState, useTransition } from 'react';
import type { Outcome } from '@/contracts/outcome';
import type { ErrorData } from '@/core/errors';
import { askServer } from './ask-server';

/** Runs server actions: busy meanwhile, the error kept for the page, the page made anew after. */
export function useAct() {
  const router = useRouter();
  const [error, setError] = useState<ErrorData | null>(null);
  const [busy, startTransition] = useTransition();
  const act = useCallback(
    <T>(action: () => Promise<Outcome<T>>, then: (value: T) => void = () => undefined) =>
      startTransition(async () => {
        const result = await askServer(action);
        setError(result.ok ? null : result.error);
        if (!result.ok) return;
        then(result.value);
        router.refresh();
      }),
    [router],
  );
  return { act, busy, error, setError, dismiss: () => setError(null) };
}

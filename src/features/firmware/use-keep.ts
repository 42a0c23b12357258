'use client';
import { useState } from 'react';
import { toHex } from '@/core/bytes/bytes';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';

/** A whole file on its way into the vault, under its hash. */
export function useKeep(
  file: File,
  send: (sha256: string, bytes: ArrayBuffer, name: string) => Promise<unknown>,
) {
  const [state, setState] = useState<'opened' | 'keeping' | 'kept'>('opened');
  /** Once it is kept. */
  const [sha256, setSha256] = useState('');
  const [error, setError] = useState<ErrorData | null>(null);
  const work = async () => {
    setState('keeping');
    setError(null);
    try {
      const bytes = await file.arrayBuffer();
      const hash = toHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes)));
      await send(hash, bytes, file.name);
      setSha256(hash);
      setState('kept');
    } catch (thrown) {
      setError(toEternoError(thrown, 'io').toData());
      setState('opened');
    }
  };
  return { state, sha256, error, dismiss: () => setError(null), keep: () => void work() };
}

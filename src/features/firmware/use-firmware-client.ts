import { useCallback, useEffect, useRef } from 'react';
import { FirmwareClient } from '@/workers/firmware/firmware-client';

/**
 * The room's one worker: what it opened to say what a file is stays open to be taken out of. Made when it is
 * first asked for.
 */
export function useFirmwareClient(): () => FirmwareClient {
  const client = useRef<FirmwareClient | null>(null);
  useEffect(
    () => () => {
      client.current?.end();
      client.current = null;
    },
    [],
  );
  return useCallback(() => (client.current ??= new FirmwareClient()), []);
}

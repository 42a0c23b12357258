'use client';
import { useRouter } from 'next/navigation';
import { createContext, useContext, useEffect, useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import type { JobView, ServerMessage } from '@/contracts/job-view';
import type { StandInMessage, StandInView } from '@/contracts/stand-in-view';

interface Live {
  readonly jobs: readonly JobView[];
  /** By profile. Undefined until the first word; null when no stand-in runs. */
  readonly standIns: Readonly<Record<string, StandInView>> | null | undefined;
}

const LiveContext = createContext<Live>({ jobs: [], standIns: undefined });
export const useLive = () => useContext(LiveContext);
export const useJob = (id: string | null) => useLive().jobs.find((job) => job.id === id) ?? null;

/** One handset's stand-in. Undefined until the first word; null when it does not run, or where the handset has none. */
export function useStandIn(profile: string | null): StandInView | null | undefined {
  const { standIns } = useLive();
  if (profile === null) return null;
  return standIns && (standIns[profile] ?? undefined);
}

/** Keeps the page true: jobs as they go, the stand-in's screen, and a refresh whenever a round changed or a job ended. */
export function LiveProvider({ since, children }: { since: number; children: ReactNode }) {
  const router = useRouter();
  const [jobs, setJobs] = useState<readonly JobView[]>([]);
  const [standIns, setStandIns] = useState<Live['standIns']>(undefined);
  useEffect(() => {
    const events = new EventSource(`/api/events?since=${since}`);
    events.onmessage = (event: MessageEvent<string>) => {
      const message = JSON.parse(event.data) as ServerMessage;
      if (message.type === 'round') return router.refresh();
      setJobs((known) => [message.job, ...known.filter((job) => job.id !== message.job.id)].slice(0, 20));
      if (message.job.state !== 'running') router.refresh();
    };
    return () => events.close();
  }, [router, since]);
  useEffect(() => {
    const events = new EventSource('/api/stand-in/events');
    events.onmessage = (event: MessageEvent<string>) => {
      const message = JSON.parse(event.data) as StandInMessage;
      setStandIns((known) => (message.profile === null ? null : { ...known, [message.profile]: message.view }));
    };
    return () => events.close();
  }, []);
  const live = useMemo(() => ({ jobs, standIns }), [jobs, standIns]);
  return <LiveContext value={live}>{children}</LiveContext>;
}

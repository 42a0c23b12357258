'use client';
import { useRouter } from 'next/navigation';
import { createContext, useContext, useEffect, useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import type { JobView, ServerMessage } from '@/contracts/job-view';
import type { StandInMessage, StandInView } from '@/contracts/stand-in-view';
import { shareEvents } from './shared-events';

interface Live {
  readonly jobs: readonly JobView[];
  /** By profile. Undefined until the first word; null when no stand-in runs. */
  readonly standIns: Readonly<Record<string, StandInView>> | null | undefined;
}

const LiveContext = createContext<Live>({ jobs: [], standIns: undefined });
export const useLive = () => useContext(LiveContext);
export const useJob = (id: string | null) => useLive().jobs.find((job) => job.id === id) ?? null;

/**
 * One handset's stand-in. Undefined until the first word; null when it does not run, or where the handset has
 * none.
 */
export function useStandIn(profile: string | null): StandInView | null | undefined {
  const { standIns } = useLive();
  if (profile === null) return null;
  return standIns && (standIns[profile] ?? undefined);
}

/** Messages that a tab which comes later may have missed. */
const KEPT = 200;
const profileOf = (data: string) => (JSON.parse(data) as StandInMessage).profile;

/** The newest word of each stand-in; that none runs takes the place of all. */
function newestOfEach<T extends { readonly data: string }>(known: readonly T[], told: T): readonly T[] {
  const profile = profileOf(told.data);
  return profile === null
    ? [told]
    : [...known.filter((one) => ![null, profile].includes(profileOf(one.data))), told];
}

/**
 * Keeps the page true: jobs as they go, the stand-in's screen, and a refresh whenever a round changed or a
 * job ended.
 */
export function LiveProvider({ since, children }: { since: number; children: ReactNode }) {
  const router = useRouter();
  // where this page began: a refresh does not begin anew
  const [from] = useState(since);
  const [jobs, setJobs] = useState<readonly JobView[]>([]);
  const [standIns, setStandIns] = useState<Live['standIns']>(undefined);
  useEffect(
    () =>
      shareEvents({
        name: 'events',
        url: (last) => `/api/events?since=${last}`,
        since: from,
        remember: (known, told) => [...known, told].slice(-KEPT),
        handle(data) {
          const message = JSON.parse(data) as ServerMessage;
          if (message.type !== 'job') return router.refresh();
          setJobs((known) => [message.job, ...known.filter((job) => job.id !== message.job.id)].slice(0, 20));
          if (message.job.state !== 'running') router.refresh();
        },
      }),
    [router, from],
  );
  useEffect(
    () =>
      shareEvents({
        name: 'stand-ins',
        url: () => '/api/stand-in/events',
        since: 0,
        remember: newestOfEach,
        handle(data) {
          const message = JSON.parse(data) as StandInMessage;
          setStandIns((known) =>
            message.profile === null ? null : { ...known, [message.profile]: message.view },
          );
        },
      }),
    [],
  );
  const live = useMemo(() => ({ jobs, standIns }), [jobs, standIns]);
  return <LiveContext value={live}>{children}</LiveContext>;
}

'use client';
import { Button, Progress } from 'antd';
import { useRouter } from 'next/navigation';
import { useEffect } from 'react';
import type { PracticeView } from '@/contracts/practice-view';
import { ErrorNote } from '@/ui/error-note';
import { useJob } from '@/ui/frame/live';
import { NextStrip } from '@/ui/next-strip';
import { StopButton } from '@/ui/stop-button';
import { useAct } from '@/ui/use-act';
import { endPracticeAction } from './actions';

/** The world that is being made, or is open: one at a time. */
export function OpenWorld({ open }: Pick<PracticeView, 'open'>) {
  const router = useRouter();
  const { act, busy, error, dismiss } = useAct();
  const job = useJob(open?.jobId ?? null);
  const isMade = job !== null && job.state !== 'running';
  useEffect(() => {
    if (isMade) router.refresh();
  }, [isMade, router]);
  if (open === null) return null;
  return (
    <>
      {open.url === null ? (
        <NextStrip action={<StopButton jobId={open.jobId} />}>
          <span role="status">
            Its world is being made, which takes about half a minute: <b>{open.title}</b>
            <Progress
              percent={100}
              status="active"
              showInfo={false}
              size="small"
              aria-label="Making its world"
            />
          </span>
        </NextStrip>
      ) : (
        <NextStrip
          action={
            <>
              <Button type="primary" href={open.url} target="_blank">
                Go there
              </Button>{' '}
              <Button disabled={busy} onClick={() => act(endPracticeAction)}>
                End it
              </Button>
            </>
          }
        >
          Practice is open in a page of its own: <b>{open.title}</b>
        </NextStrip>
      )}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

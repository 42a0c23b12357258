'use client';
import { Button } from 'antd';
import { useState } from 'react';
import type { ErrorData } from '@/core/errors';

/** Stops a job; where stopping would do harm, it says why it goes on. */
export function StopButton({ jobId }: { readonly jobId: string }) {
  const [why, setWhy] = useState<string | null>(null);
  const stop = async () => {
    const answer = await fetch(`/api/jobs/${jobId}/cancel`, { method: 'POST' }).catch(() => null);
    if (answer === null) setWhy('Eterno does not answer.');
    else if (!answer.ok) setWhy(((await answer.json()) as { error: ErrorData }).error.message);
  };
  return (
    <>
      <Button size="small" onClick={() => void stop()}>
        Stop
      </Button>
      {why === null ? null : (
        <span className="soft small" role="status">
          {' '}
          {why}
        </span>
      )}
    </>
  );
}

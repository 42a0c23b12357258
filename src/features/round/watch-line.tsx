'use client';
import { useEffect, useState } from 'react';
import type { RoundStepView } from '@/contracts/round-view';
import { STUCK_FACTOR } from '@/core/steps/step-kind';
import { formatSeconds } from '@/ui/format';

/** How long the step has run against what is normal: as expected, slow, or stuck with what to do then. */
export function WatchLine({ step, now }: { readonly step: RoundStepView; readonly now: number }) {
  const running = step.state === 'running' && step.startedAt !== null;
  const [passed, setPassed] = useState(0);
  useEffect(() => {
    if (!running) return;
    const from = Date.now();
    const timer = setInterval(() => setPassed((Date.now() - from) / 1000), 1000);
    return () => clearInterval(timer);
  }, [running, step.id]);
  const [expected, slow] = step.seconds;
  const stuck = slow * STUCK_FACTOR;
  if (!running)
    return (
      <p className="soft small">
        Normal: {formatSeconds(expected)}. Slow: over {formatSeconds(slow)}. Stuck: over{' '}
        {formatSeconds(stuck)}.
        {step.sureness === 'seen done' ? '' : ` The rule behind this step is ${step.sureness}: go slowly.`}
      </p>
    );
  const seconds = Math.max(0, (now - step.startedAt!) / 1000) + passed;
  const word = seconds <= slow ? 'as expected' : seconds <= stuck ? 'slow, and still normal' : 'stuck';
  return (
    <p className={`small ${seconds > stuck ? 'bad' : seconds > slow ? 'wait' : 'soft'}`} aria-live="polite">
      {formatSeconds(Math.round(seconds))}: {word}
      {seconds > stuck ? `. ${step.text.otherwise}` : `, normal is ${formatSeconds(expected)}`}
    </p>
  );
}

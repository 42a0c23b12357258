import type { Progress } from '@/core/ports';

const LEAST_MS = 120;

/** Passes progress on no more often than a person can follow, and always its end. */
export function nowAndThen(tell: (progress: Progress) => void): (progress: Progress) => void {
  let last = -LEAST_MS;
  return (progress) => {
    const now = performance.now();
    if (now - last < LEAST_MS && progress.doneBytes < progress.totalBytes) return;
    last = now;
    tell(progress);
  };
}

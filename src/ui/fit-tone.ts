import type { FitVerdict } from '@/core/fit/fit-package';

/**
 * How a verdict stands out: red only for the look-alike, which could be taken for the right one; what was
 * never meant for a handset is no danger.
 */
export const fitTone = (verdict: FitVerdict): '' | 'bad' | 'soft' | 'wait' =>
  verdict === 'exact'
    ? ''
    : verdict === 'other variant'
      ? 'bad'
      : verdict === 'other handset'
        ? 'soft'
        : 'wait';

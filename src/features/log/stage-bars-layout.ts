import { scaleLinear, sum } from 'd3';
import type { LogRound } from '@/contracts/log-view';
import type { Stage } from '@/core/rounds/step-kind';
import { STAGES } from '@/core/rounds/step-kind';

export interface StageBar {
  readonly stage: Stage;
  readonly seconds: number;
  readonly x: number;
  readonly width: number;
}

/** A round's time by stage as one bar, to the scale of the longest round. Pixels. */
export function layOutStageBars(round: LogRound, longestSeconds: number, width: number): StageBar[] {
  const scale = scaleLinear([0, Math.max(1, longestSeconds)], [0, width]);
  let at = 0;
  return STAGES.flatMap((stage) => {
    const seconds = sum(
      round.steps.filter((step) => step.stage === stage),
      (step) => step.seconds ?? 0,
    );
    if (seconds === 0) return [];
    const bar = { stage, seconds, x: scale(at), width: scale(seconds) };
    at += seconds;
    return [bar];
  });
}

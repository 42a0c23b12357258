import { scaleLinear } from 'd3';
import type { StageTime } from '@/core/rounds/stage-time';

export interface StageBar extends StageTime {
  readonly x: number;
  readonly width: number;
}

/** Times by stage as one bar, to the scale of the longest. Pixels. */
export function layOutStageBars(
  stages: readonly StageTime[],
  longestSeconds: number,
  width: number,
): StageBar[] {
  const scale = scaleLinear([0, Math.max(1, longestSeconds)], [0, width]);
  let at = 0;
  return stages.map(({ stage, seconds }) => {
    const bar = { stage, seconds, x: scale(at), width: scale(seconds) };
    at += seconds;
    return bar;
  });
}

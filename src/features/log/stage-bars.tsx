import type { StageTime } from '@/core/rounds/stage-time';
import { formatSeconds } from '@/ui/format';
import { layOutStageBars } from './stage-bars-layout';

const WIDTH = 900;
/** Names shorter than their bar are written in it. */
const PIXELS_A_LETTER = 7.5;

/** Where the time of rounds went, stage by stage. */
export function StageBars({
  stages,
  longestSeconds,
}: {
  stages: readonly StageTime[];
  longestSeconds: number;
}) {
  const bars = layOutStageBars(stages, longestSeconds, WIDTH);
  const label = bars.map((bar) => `${bar.stage} ${formatSeconds(bar.seconds)}`).join(', ');
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${WIDTH} 22`}
      style={{ display: 'block', maxWidth: WIDTH, margin: '6px 0' }}
      role="img"
      aria-label={`Time by stage: ${label}`}
    >
      {bars.map((bar, i) => (
        <g key={bar.stage}>
          <rect
            x={bar.x}
            y={2}
            width={Math.max(1, bar.width - 1)}
            height={18}
            fill={i % 2 === 0 ? 'var(--stock-soft)' : 'var(--faint)'}
            stroke="var(--line)"
          >
            <title>{`${bar.stage}: ${formatSeconds(bar.seconds)}`}</title>
          </rect>
          {bar.width > bar.stage.length * PIXELS_A_LETTER + 8 ? (
            <text x={bar.x + 5} y={15} fontSize={11.5} fill="var(--ink)">
              {bar.stage}
            </text>
          ) : null}
        </g>
      ))}
    </svg>
  );
}

import type { StepView } from '@/contracts/round-view';
import { layOutRoute } from './route-layout';

const WIDTH = 768;
const FILL: Readonly<Record<StepView['state'], string>> = {
  done: 'var(--ink)',
  running: 'var(--wait)',
  failed: 'var(--bad)',
  interrupted: 'var(--bad)',
  waiting: 'var(--paper)',
};
const MODE_WORDS: Readonly<Record<string, string>> = { computer: 'here', system: 'system', bootloader: 'bootloader' };

/** Where the handset goes in this round; squares write, ticks are done, the ring is now. */
export function RouteChart({ steps, current }: { steps: readonly StepView[]; current: number | null }) {
  const route = layOutRoute(steps, current, WIDTH);
  return (
    <svg
      width="100%"
      viewBox={`0 0 ${WIDTH} 132`}
      style={{ display: 'block', maxWidth: WIDTH }}
      role="img"
      aria-label={`The round in ${steps.length} steps through ${route.lines.length} modes`}
    >
      {route.lines.map((line) => (
        <g key={line.mode}>
          <text x={0} y={line.y + 4} fontSize={12.5} fill="var(--soft)">
            {MODE_WORDS[line.mode]}
          </text>
          <path d={`M86 ${line.y}H${WIDTH - 6}`} stroke="var(--line)" />
        </g>
      ))}
      <path d={route.path} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      {route.points.map((point) => (
        <g key={point.label}>
          {point.writes ? (
            <rect x={point.x - 6} y={point.y - 6} width={12} height={12} fill={FILL[point.state]} stroke="var(--ink)" strokeWidth={1.6} />
          ) : (
            <circle cx={point.x} cy={point.y} r={5} fill={FILL[point.state]} stroke="var(--ink)" strokeWidth={1.6} />
          )}
          {point.current ? <circle cx={point.x} cy={point.y} r={11} fill="none" stroke="var(--root)" strokeWidth={2.4} /> : null}
          <text
            x={point.x}
            y={point.y - 14}
            fontSize={11}
            textAnchor="middle"
            fontWeight={point.current ? 700 : 400}
            fill={point.current ? 'var(--ink)' : 'var(--soft)'}
            stroke="var(--paper)"
            strokeWidth={3}
            paintOrder="stroke"
          >
            {point.label}
          </text>
        </g>
      ))}
    </svg>
  );
}

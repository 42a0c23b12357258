import type { StepView } from '@/contracts/step-view';
import type { RouteStop } from './route-layout';
import { layOutRoute } from './route-layout';

const WIDTH = 820;
const LEFT = 92;
const MODE_WORDS: Readonly<Record<string, string>> = { computer: 'here', userspace: 'user-space' };
const FILL: Readonly<Record<RouteStop['state'], string>> = {
  done: 'var(--ink)',
  running: 'var(--wait)',
  failed: 'var(--bad)',
  interrupted: 'var(--bad)',
  waiting: 'var(--sheet)',
};

/**
 * A square for a write, a crossed one for a wipe, a ring for a start, a dot for the rest; the step of now has
 * a ring round it.
 */
function Stop({ stop, label }: { stop: RouteStop; label: boolean }) {
  const { x, y, kind, title, index, state, current } = stop;
  const fill = FILL[state];
  const square = kind === 'write' || kind === 'wipe';
  return (
    <g transform={`translate(${x} ${y})`}>
      <title>{`${index + 1}. ${title}`}</title>
      {square ? (
        <rect
          x="-5"
          y="-5"
          width="10"
          height="10"
          fill={fill}
          stroke={kind === 'wipe' ? 'var(--bad)' : 'var(--ink)'}
          strokeWidth="2"
        />
      ) : null}
      {kind === 'wipe' ? <path d="M-5 -5 5 5M5 -5 -5 5" stroke="var(--bad)" strokeWidth="1.6" /> : null}
      {kind === 'start' ? <circle r="5.4" fill={fill} stroke="var(--ink)" strokeWidth="2" /> : null}
      {kind === 'plain' ? <circle r="3.6" fill={state === 'waiting' ? 'var(--soft)' : fill} /> : null}
      {current ? <circle r="10.5" fill="none" stroke="var(--root)" strokeWidth="2.4" /> : null}
      {label || current ? (
        <text
          y="-12"
          textAnchor="middle"
          fontSize="10.5"
          fontWeight={current ? 700 : 400}
          fill={current ? 'var(--ink)' : 'var(--soft)'}
        >
          {index + 1}
        </text>
      ) : null}
    </g>
  );
}

/**
 * Where the handset goes: time along, a line a mode; shaded where nothing may restart, a double line where a
 * way back ends.
 */
export function RouteChart({
  steps,
  current,
}: {
  readonly steps: readonly StepView[];
  readonly current: number | null;
}) {
  const modes = new Set(['system', ...steps.map((step) => step.mode)]).size;
  const height = 44 + modes * 26;
  const route = layOutRoute(steps, current, { width: WIDTH, height, left: LEFT });
  const held = route.holds.length > 0 ? ', with a stretch in which nothing may restart' : '';
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      width="100%"
      style={{ display: 'block', maxWidth: 980 }}
      role="img"
      aria-label={`The round in ${steps.length} steps through ${route.modes.length} modes${held}`}
    >
      {route.holds.map(({ from, to }) => (
        <g key={from}>
          <rect x={from} y={4} width={Math.max(2, to - from)} height={height - 26} fill="var(--wait-soft)" />
          <text x={(from + to) / 2} y={14} fontSize="10.5" textAnchor="middle" fill="var(--wait)">
            {to - from > 70 ? 'no restart' : ''}
          </text>
        </g>
      ))}
      {route.modes.map((mode) => (
        <g key={mode.name}>
          <line x1={LEFT} x2={WIDTH - 8} y1={mode.y} y2={mode.y} stroke="var(--line)" />
          <text x="0" y={mode.y + 4} fontSize="12" fill="var(--soft)">
            {MODE_WORDS[mode.name] ?? mode.name}
          </text>
        </g>
      ))}
      {route.noReturn.map((x) => (
        <g key={x}>
          <path
            d={`M${x + 8} 6V${height - 24}M${x + 11} 6V${height - 24}`}
            stroke="var(--bad)"
            strokeWidth="1.2"
          >
            <title>A way back ends here</title>
          </path>
        </g>
      ))}
      {route.ticks.map((tick) => (
        <text
          key={tick.label}
          x={tick.x}
          y={height - 4}
          fontSize="10.5"
          textAnchor="middle"
          fill="var(--soft)"
        >
          {tick.label}
        </text>
      ))}
      <polyline
        points={route.path.map(([x, y]) => `${x},${y}`).join(' ')}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="1.5"
      />
      {route.stops.map((stop, i) => (
        <Stop key={stop.index} stop={stop} label={i === 0 || stop.x - route.stops[i - 1]!.x > 11} />
      ))}
    </svg>
  );
}

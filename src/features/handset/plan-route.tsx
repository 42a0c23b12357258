import type { PlanStepView } from '@/contracts/plan-view';
import { planRoute } from './plan-route-layout';
import type { RouteStop } from './plan-route-layout';

const SIZE = { width: 1100, height: 150, left: 90 };

/** A square for a write, a crossed one for a wipe, an open ring for a start, a dot for the rest. */
function Stop({ stop }: { stop: RouteStop }) {
  const { x, y, kind, title, index } = stop;
  return (
    <g transform={`translate(${x} ${y})`}>
      <title>{`${index + 1}. ${title}`}</title>
      {kind === 'write' || kind === 'wipe' ? (
        <rect x="-5" y="-5" width="10" height="10" fill="var(--sheet)" stroke={kind === 'wipe' ? 'var(--bad)' : 'var(--ink)'} strokeWidth="2" />
      ) : null}
      {kind === 'wipe' ? <path d="M-5 -5 5 5M5 -5 -5 5" stroke="var(--bad)" strokeWidth="1.6" /> : null}
      {kind === 'start' ? <circle r="5" fill="var(--sheet)" stroke="var(--ink)" strokeWidth="2" /> : null}
      {kind === 'plain' ? <circle r="3.4" fill="var(--ink)" /> : null}
      <text y="-9" textAnchor="middle" fontSize="10.5" fill="var(--soft)">
        {index + 1}
      </text>
    </g>
  );
}

/** The plan drawn through the modes the handset passes; the list of its steps says the same in words. */
export function PlanRoute({ steps }: { steps: readonly PlanStepView[] }) {
  const route = planRoute(steps, 'system', SIZE);
  return (
    <svg viewBox={`0 0 ${SIZE.width} ${SIZE.height}`} width="100%" role="img" aria-label={`The way through its modes in ${steps.length} steps`}>
      {route.modes.map((mode) => (
        <g key={mode.name}>
          <line x1={SIZE.left} x2={SIZE.width - 12} y1={mode.y} y2={mode.y} stroke="var(--line)" />
          <text x="0" y={mode.y + 4} fontSize="12" fill="var(--soft)">
            {mode.name === 'computer' ? 'here' : mode.name}
          </text>
        </g>
      ))}
      {route.minutes.map((tick) => (
        <text key={tick.label} x={tick.x} y={SIZE.height - 3} fontSize="10.5" textAnchor="middle" fill="var(--soft)">
          {tick.label}
        </text>
      ))}
      <polyline points={route.path.map(([x, y]) => `${x},${y}`).join(' ')} fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      {route.stops.map((stop) => (
        <Stop key={stop.index} stop={stop} />
      ))}
    </svg>
  );
}

import { scaleLinear } from 'd3';
import type { StepView } from '@/contracts/round-view';

export const ROUTE_MODES = ['computer', 'system', 'bootloader'] as const;

export interface RoutePoint {
  readonly x: number;
  readonly y: number;
  readonly label: string;
  readonly state: StepView['state'];
  readonly writes: boolean;
  readonly current: boolean;
}

export interface RouteLayout {
  readonly points: readonly RoutePoint[];
  /** Lines of the modes, top to bottom. */
  readonly lines: readonly { readonly mode: string; readonly y: number }[];
  readonly path: string;
}

const TOP = 28;
const LINE_GAP = 38;
const LEFT = 96;

const SHORT: Readonly<Record<StepView['key'], string>> = {
  'read-facts': 'facts',
  'find-package': 'package',
  'take-image': 'take out',
  'patch-image': 'patch',
  check: 'checks',
  'enter-bootloader': 'bootloader',
  'write-image': 'write',
  restart: 'start',
  'prove-root': 'prove',
  close: 'close',
};

/** The round drawn through the modes the handset passes: steps along, modes as lines. Pixels. */
export function layOutRoute(steps: readonly StepView[], current: number | null, width: number): RouteLayout {
  const x = scaleLinear([0, Math.max(1, steps.length - 1)], [LEFT + 20, width - 34]);
  const lines = ROUTE_MODES.map((mode, i) => ({ mode, y: TOP + i * LINE_GAP }));
  const y = (mode: StepView['mode']) => lines.find((line) => line.mode === mode)!.y;
  const points = steps.map((step, i) => ({
    x: x(i),
    y: y(step.mode),
    label: SHORT[step.key],
    state: step.state,
    writes: step.writes,
    current: i === current,
  }));
  const path = points.map((point, i) => (i === 0 ? `M${point.x} ${point.y}` : `L${point.x - 24} ${points[i - 1]!.y}L${point.x} ${point.y}`)).join('');
  return { points, lines, path };
}

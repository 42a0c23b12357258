import { scaleLinear, scalePoint } from 'd3';
import type { PlanStepView } from '@/contracts/plan-view';

const MODE_ORDER = ['computer', 'system', 'starting', 'off', 'recovery', 'sideload', 'bootloader', 'userspace', 'download', 'looping'] as const;

export interface RouteStop {
  readonly index: number;
  readonly x: number;
  readonly y: number;
  readonly kind: 'write' | 'wipe' | 'start' | 'plain';
  readonly title: string;
}

export interface PlanRoute {
  readonly modes: readonly { readonly name: string; readonly y: number }[];
  /** Points of the line, in order. */
  readonly path: readonly (readonly [number, number])[];
  readonly stops: readonly RouteStop[];
  readonly minutes: readonly { readonly label: string; readonly x: number }[];
}

/** A plan drawn through the modes: expected minutes along, one line a mode, a stop at the end of every step. */
export function planRoute(
  steps: readonly PlanStepView[],
  startMode: string,
  { width, height, left }: { width: number; height: number; left: number },
): PlanRoute {
  const used = new Set([startMode, ...steps.map((step) => step.mode)]);
  const modes = MODE_ORDER.filter((mode) => used.has(mode));
  const total = steps.reduce((sum, step) => sum + step.minutes[0], 0);
  const x = scaleLinear()
    .domain([0, Math.max(1, total)])
    .range([left, width - 12]);
  const y = scalePoint<string>()
    .domain(modes)
    .range([14, height - 22])
    .padding(0.1);
  let at = 0;
  let mode = startMode;
  const path: (readonly [number, number])[] = [[x(0), y(mode) ?? 0]];
  const stops = steps.map((step, index): RouteStop => {
    // the way to another mode is drawn short, whatever the step takes
    const turn = at + Math.min(step.minutes[0] / 3, total / 50);
    if (step.mode !== mode) path.push([x(at), y(mode) ?? 0], [x(turn), y(step.mode) ?? 0]);
    at += step.minutes[0];
    mode = step.mode;
    const point = [x(at), y(mode) ?? 0] as const;
    path.push(point);
    return {
      index,
      x: point[0],
      y: point[1],
      kind: step.wipes ? 'wipe' : step.writes ? 'write' : step.starts ? 'start' : 'plain',
      title: step.title,
    };
  });
  const ticks = x.ticks(6).map((minute) => ({ label: `${minute} min`, x: x(minute) }));
  return { modes: modes.map((name) => ({ name, y: y(name)! })), path, stops, minutes: ticks };
}

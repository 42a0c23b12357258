import { scaleLinear, scalePoint } from 'd3';
import type { StepView } from '@/contracts/step-view';

const MODE_ORDER = [
  'computer',
  'system',
  'starting',
  'off',
  'recovery',
  'sideload',
  'bootloader',
  'userspace',
  'download',
  'looping',
  'dead',
] as const;

export interface RouteStop {
  readonly index: number;
  readonly x: number;
  readonly y: number;
  readonly kind: 'write' | 'wipe' | 'start' | 'plain';
  readonly title: string;
  readonly state: StepView['state'];
  readonly current: boolean;
}

export interface RouteLayout {
  readonly modes: readonly { readonly name: string; readonly y: number }[];
  readonly path: readonly (readonly [number, number])[];
  readonly stops: readonly RouteStop[];
  readonly ticks: readonly { readonly label: string; readonly x: number }[];
  /** Stretches in which nothing may restart. */
  readonly holds: readonly { readonly from: number; readonly to: number }[];
  /** Where a way back ends. */
  readonly noReturn: readonly number[];
}

/** Steps never lie closer than this many minutes, so that they can be told apart. */
const LEAST_MINUTES = 0.8;

/**
 * A round drawn through the modes: expected minutes along, one line a mode, a stop at the end of every step.
 * Pixels.
 */
export function layOutRoute(
  steps: readonly StepView[],
  current: number | null,
  { width, height, left }: { readonly width: number; readonly height: number; readonly left: number },
): RouteLayout {
  const first = 'system';
  const used = new Set([first, ...steps.map((step) => step.mode)]);
  const modes = MODE_ORDER.filter((mode) => used.has(mode));
  const drawn = steps.map((step) => Math.max(LEAST_MINUTES, step.minutes[0]));
  const total = drawn.reduce((sum, one) => sum + one, 0);
  const x = scaleLinear([0, Math.max(1, total)], [left, width - 14]);
  const y = scalePoint<string>(modes, [16, height - 24]).padding(0.1);
  let at = 0;
  let mode: string = first;
  let heldFrom: number | null = null;
  const path: (readonly [number, number])[] = [[x(0), y(mode) ?? 0]];
  const holds: { from: number; to: number }[] = [];
  const noReturn: number[] = [];
  const stops = steps.map((step, index): RouteStop => {
    // the way to another mode is drawn short, whatever the step takes
    const turn = at + Math.min(drawn[index]! / 3, total / 50);
    if (step.mode !== mode) path.push([x(at), y(mode) ?? 0], [x(turn), y(step.mode) ?? 0]);
    if ((step.starts || (!step.holds && step.mode === 'recovery')) && heldFrom !== null) {
      holds.push({ from: heldFrom, to: x(at) });
      heldFrom = null;
    }
    at += drawn[index]!;
    mode = step.mode;
    const point = [x(at), y(mode) ?? 0] as const;
    path.push(point);
    if (step.holds) heldFrom ??= point[0];
    if (step.pointOfNoReturn) noReturn.push(point[0]);
    return {
      index,
      x: point[0],
      y: point[1],
      kind: step.erases ? 'wipe' : step.writes ? 'write' : step.starts ? 'start' : 'plain',
      title: step.title,
      state: step.state,
      current: index === current,
    };
  });
  if (heldFrom !== null) holds.push({ from: heldFrom, to: x(at) });
  const ticks = x.ticks(6).map((minute) => ({ label: `${minute} min`, x: x(minute) }));
  return { modes: modes.map((name) => ({ name, y: y(name)! })), path, stops, ticks, holds, noReturn };
}

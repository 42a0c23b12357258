import { memo, useMemo } from 'react';
import type { PointerEvent } from 'react';
import type { RootSpan, RootState } from '@/core/schedule/continuity';
import { formatDay, monthName } from '../format';
import { ROOT_WORDS } from '../state-mark';
import type { BandLayout } from './continuity-layout';
import { bandAt, bandRange, layOutBand, statePaths, TEN_MONTHS } from './continuity-layout';

interface Props {
  readonly spans: readonly RootSpan[];
  readonly builds: readonly { readonly buildId: string; readonly at: number }[];
  readonly begun?: readonly { readonly title: string; readonly at: number }[];
  readonly waiting: { readonly buildId: string; readonly at: number } | null;
  readonly now: number;
  readonly width?: number;
  readonly months?: number;
  readonly label: string;
  /** Whether months or years stand below; where many bands share an axis they don't. */
  readonly axis?: boolean;
}

const FILL: Readonly<Record<RootState, { fill: string; stroke: string }>> = {
  proven: { fill: 'var(--root)', stroke: 'var(--root)' },
  unproven: { fill: 'url(#band-unproven)', stroke: 'var(--root)' },
  stock: { fill: 'none', stroke: 'var(--stock)' },
  lost: { fill: 'var(--paper)', stroke: 'var(--bad)' },
  broken: { fill: 'url(#band-broken)', stroke: 'var(--bad)' },
  unknown: { fill: 'none', stroke: 'var(--line)' },
};

const [TOP, HEIGHT, TOTAL, AXIS] = [24, 13, 58, 14];

function wordsAt(band: BandLayout, x: number): string {
  const { span, builds, begun } = bandAt(band, x);
  return [
    span ? `${ROOT_WORDS[span.state]}, ${formatDay(span.from)} to ${formatDay(span.to)}` : '',
    ...builds.map(({ buildId, at }) => `${buildId}, out ${formatDay(at)}`),
    ...begun.map(({ title, at }) => `${title}, begun ${formatDay(at)}`),
  ]
    .filter((line) => line !== '')
    .join('\n');
}

/** Months by name, or years where they begin. */
const axisLabels = ({ months }: BandLayout, fine: boolean) =>
  fine
    ? months
        .filter(({ at }) => new Date(at).getUTCMonth() === 0)
        .map(({ x, at }) => ({ x, text: String(new Date(at).getUTCFullYear()) }))
    : months.slice(0, -1).map(({ x, at }) => ({ x, text: monthName(at) }));

const dots = (marks: readonly { readonly x: number }[], y: number, r: number) =>
  marks
    .map(({ x }) => `M${(x - r).toFixed(2)} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`)
    .join('');
const ticks = (marks: readonly { readonly x: number }[], y: number, length: number) =>
  marks.map(({ x }) => `M${x.toFixed(2)} ${y}v${length}`).join('');

/**
 * Months along: where root was held, lost or broken; builds as ticks below, rounds as rings and one that
 * waits as a flag above. What stands under the pointer is said in words. Drawn as a few paths, so that dozens
 * of bands over years stay light.
 */
export const ContinuityBand = memo(function ContinuityBand({
  spans,
  builds,
  begun,
  waiting,
  now,
  width = 560,
  months = TEN_MONTHS,
  label,
  axis = false,
}: Props) {
  const band = useMemo(
    () => layOutBand(spans, builds, waiting?.at ?? null, bandRange(now, months), now, width, begun),
    [spans, builds, waiting, now, months, width, begun],
  );
  // over years a build is a tick: its name is in the table
  const fine = months > TEN_MONTHS;
  const say = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    event.currentTarget.title = wordsAt(band, ((event.clientX - box.left) / box.width) * width);
  };
  return (
    <figure style={{ margin: 0, maxWidth: width }} onPointerMove={say}>
      <svg
        width="100%"
        viewBox={`0 0 ${width} ${TOTAL + (axis ? AXIS : 0)}`}
        role="img"
        aria-label={label}
        style={{ display: 'block' }}
      >
        <defs>
          <pattern
            id="band-broken"
            width="5"
            height="5"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="5" height="5" fill="var(--bad-soft)" />
            <path d="M0 0V5" stroke="var(--bad)" strokeWidth="2.4" />
          </pattern>
          <pattern
            id="band-unproven"
            width="6"
            height="6"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="6" height="6" fill="var(--root-soft)" />
            <path d="M0 0V6" stroke="var(--root)" strokeWidth="1.6" />
          </pattern>
        </defs>
        <path d={`M0 42H${width}`} stroke="var(--line)" />
        {statePaths(band.rects, TOP, HEIGHT).map(({ state, d }) => (
          <path key={state} d={d} fill={FILL[state].fill} stroke={FILL[state].stroke} />
        ))}
        <path d={ticks(band.builds, 38, fine ? 6 : 8)} stroke={fine ? 'var(--soft)' : 'var(--ink)'} />
        {fine ? null : <path d={dots(band.builds, 48, 2.4)} fill="var(--ink)" />}
        <path
          d={dots(band.begun, 18, fine ? 1.6 : 2.6)}
          fill="var(--paper)"
          stroke="var(--ink)"
          strokeWidth={1.2}
        />
        {band.waitingX === null ? null : (
          <g>
            <path d={`M${band.waitingX} 14v9`} stroke="var(--wait)" strokeWidth={1.6} />
            <path d={`M${band.waitingX - 5} 6h10l-5 8z`} fill="var(--wait)">
              <title>{`${waiting?.buildId} is out and not installed`}</title>
            </path>
          </g>
        )}
        {axis
          ? axisLabels(band, fine).map(({ x, text }) => (
              <text key={x} x={x} y={TOTAL + 9} fontSize={11} fill="var(--soft)">
                {text}
              </text>
            ))
          : null}
        <path d={`M${band.nowX} 10V54`} stroke="var(--ink)" strokeDasharray="2 2" />
      </svg>
    </figure>
  );
});

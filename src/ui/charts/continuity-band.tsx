import { useMemo } from 'react';
import type { RootSpan, RootState } from '@/core/schedule/continuity';
import { formatDay } from '../format';
import { ROOT_WORDS } from '../state-mark';
import { bandRange, layOutBand, TEN_MONTHS } from './continuity-layout';

interface Props {
  readonly spans: readonly RootSpan[];
  readonly builds: readonly { readonly buildId: string; readonly at: number }[];
  readonly begun?: readonly { readonly title: string; readonly at: number }[];
  readonly waiting: { readonly buildId: string; readonly at: number } | null;
  readonly now: number;
  readonly width?: number;
  readonly months?: number;
  readonly label: string;
}

const FILL: Readonly<Record<RootState, { fill: string; stroke: string }>> = {
  proven: { fill: 'var(--root)', stroke: 'var(--root)' },
  unproven: { fill: 'url(#band-unproven)', stroke: 'var(--root)' },
  stock: { fill: 'none', stroke: 'var(--stock)' },
  lost: { fill: 'var(--paper)', stroke: 'var(--bad)' },
  broken: { fill: 'url(#band-broken)', stroke: 'var(--bad)' },
  unknown: { fill: 'none', stroke: 'var(--line)' },
};

/** Months along: where root was held, lost or broken; builds as ticks below, rounds as rings and one that waits as a flag above. */
export function ContinuityBand({ spans, builds, begun, waiting, now, width = 560, months = TEN_MONTHS, label }: Props) {
  const band = useMemo(
    () => layOutBand(spans, builds, waiting?.at ?? null, bandRange(now, months), now, width, begun),
    [spans, builds, waiting, now, months, width, begun],
  );
  // over years a build is a tick: its name is in the table
  const fine = months > TEN_MONTHS;
  return (
    <figure style={{ margin: 0 }}>
      <svg width="100%" viewBox={`0 0 ${width} 58`} role="img" aria-label={label} style={{ display: 'block', maxWidth: width }}>
        <defs>
          <pattern id="band-broken" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="5" height="5" fill="var(--bad-soft)" />
            <path d="M0 0V5" stroke="var(--bad)" strokeWidth="2.4" />
          </pattern>
          <pattern id="band-unproven" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" fill="var(--root-soft)" />
            <path d="M0 0V6" stroke="var(--root)" strokeWidth="1.6" />
          </pattern>
        </defs>
        <path d={`M0 42H${width}`} stroke="var(--line)" />
        {band.rects.map((rect) => (
          <rect key={rect.from} x={rect.x} y={24} width={rect.width} height={13} fill={FILL[rect.state].fill} stroke={FILL[rect.state].stroke}>
            <title>{`${ROOT_WORDS[rect.state]}, ${formatDay(rect.from)} to ${formatDay(rect.to)}`}</title>
          </rect>
        ))}
        {fine ? (
          <path d={band.builds.map((build) => `M${build.x} 38v6`).join('')} stroke="var(--soft)" />
        ) : (
          band.builds.map((build) => (
            <g key={build.buildId}>
              <path d={`M${build.x} 38v8`} stroke="var(--ink)" />
              <circle cx={build.x} cy={48} r={2.4} fill="var(--ink)">
                <title>{`${build.buildId}, out ${formatDay(build.at)}`}</title>
              </circle>
            </g>
          ))
        )}
        {band.begun.map((round) => (
          <circle key={round.at} cx={round.x} cy={18} r={fine ? 1.6 : 2.6} fill="var(--paper)" stroke="var(--ink)" strokeWidth={1.2}>
            <title>{`${round.title}, begun ${formatDay(round.at)}`}</title>
          </circle>
        ))}
        {band.waitingX === null ? null : (
          <g>
            <path d={`M${band.waitingX} 14v9`} stroke="var(--wait)" strokeWidth={1.6} />
            <path d={`M${band.waitingX - 5} 6h10l-5 8z`} fill="var(--wait)">
              <title>{`${waiting?.buildId} is out and not installed`}</title>
            </path>
          </g>
        )}
        <path d={`M${band.nowX} 10V54`} stroke="var(--ink)" strokeDasharray="2 2" />
      </svg>
      <table className="visually-hidden">
        <caption>{label}</caption>
        <tbody>
          {spans.map((span) => (
            <tr key={span.from}>
              <td>{formatDay(span.from)}</td>
              <td>{formatDay(span.to)}</td>
              <td>{ROOT_WORDS[span.state]}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </figure>
  );
}

import type { HandsetDetail } from '@/contracts/handset-view';
import { longestRun, minutesWithoutRoot, shareWithRoot } from '@/core/schedule/continuity';
import { ContinuityBand } from '@/ui/charts/continuity-band';
import { FOUR_YEARS } from '@/ui/charts/continuity-layout';
import { formatDay, formatSeconds } from '@/ui/format';
import { ROOT_WORDS, StateMark } from '@/ui/state-mark';

const DAY_MS = 86_400_000;

/** Root over four years: the band, what it comes to, and the same as a table. */
export function HeldRoot({ handset, now }: { readonly handset: HandsetDetail; readonly now: number }) {
  const { spans, builds, begun, waiting } = handset;
  const share = shareWithRoot(spans);
  if (spans.length === 0) return <p className="soft">Nothing is known of its root yet.</p>;
  return (
    <>
      <p>
        {share === null ? '' : `Root was there on ${Math.round(share * 100)} % of its days; `}
        the longest run was {Math.floor(longestRun(spans) / DAY_MS)} days; it was lost or broken for{' '}
        {formatSeconds(minutesWithoutRoot(spans, 0, now) * 60)}.
      </p>
      <ContinuityBand
        spans={spans}
        builds={builds}
        begun={begun}
        waiting={waiting}
        now={now}
        months={FOUR_YEARS}
        width={760}
        label={`${handset.name}: root over the last four years`}
      />
      <details>
        <summary className="small">As a table</summary>
        <table className="ledger">
          <tbody>
            {[...spans].reverse().map((span) => (
              <tr key={span.from}>
                <td style={{ width: 28 }}>
                  <StateMark state={span.state} size={15} />
                </td>
                <td>{ROOT_WORDS[span.state]}</td>
                <td>{formatDay(span.from)}</td>
                <td>{formatDay(span.to)}</td>
                <td className="num">{formatSeconds((span.to - span.from) / 1000)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </>
  );
}

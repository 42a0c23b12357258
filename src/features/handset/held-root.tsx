import type { HandsetDetail } from '@/contracts/handset-view';
import { longestRun, minutesWithoutRoot, shareWithRoot } from '@/core/schedule/continuity';
import { ContinuityBand } from '@/ui/charts/continuity-band';
import { FOUR_YEARS } from '@/ui/charts/continuity-layout';
import { SpanTable } from '@/ui/charts/span-table';
import { formatSeconds } from '@/ui/format';

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
        axis
        label={`${handset.name}: root over the last four years`}
      />
      <details>
        <summary className="small">As a table</summary>
        <SpanTable spans={spans} />
      </details>
    </>
  );
}

'use client';
import { Button, Segmented } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { memo, useCallback, useMemo, useState } from 'react';
import type { BenchRow, PutAwayView } from '@/contracts/handset-view';
import { longestRun, minutesWithoutRoot, shareWithRoot } from '@/core/schedule/continuity';
import { ContinuityBand } from '@/ui/charts/continuity-band';
import { bandRange, FOUR_YEARS, monthStarts, TEN_MONTHS, yearStarts } from '@/ui/charts/continuity-layout';
import { SpanTable } from '@/ui/charts/span-table';
import { formatDay, formatSeconds, formatWeekday, monthName } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { useRoomWhy } from '@/ui/frame/why';
import { ROOT_WORDS, StateMark } from '@/ui/state-mark';
import { wayBackWords } from '@/core/words/way-back';
import { AddHandset } from './add-handset';
import { EmptyBench } from './empty-bench';
import { NotStarting } from './not-starting';
import { PutAway } from './put-away';
import { benchHeadline, sortedRows } from './bench-headline';
import { Together } from './together';
import styles from './bench.module.css';
import { readinessWords } from '@/core/words/readiness';
import { NEXT_BUTTONS, nextWords, waitingWords } from '@/core/words/schedule';

type BenchViewKind = 'months' | 'years' | 'table';

interface Props {
  readonly rows: readonly BenchRow[];
  readonly away: readonly PutAwayView[];
  readonly now: number;
}

export function BenchRoom({ rows, away, now }: Props) {
  const router = useRouter();
  const sorted = useMemo(() => sortedRows(rows), [rows]);
  const [focused, setFocused] = useState(0);
  const [view, setView] = useState<BenchViewKind>('months');
  const months = view === 'years' ? FOUR_YEARS : TEN_MONTHS;
  const act = useCallback(
    (row: BenchRow | undefined) => {
      if (!row) return;
      if (row.next.goes === 'round') return router.push(`/rounds/${row.roundId}`);
      if (row.next.goes === 'handset' || row.next.goes === 'contradiction')
        return router.push(`/handsets/${row.id}`);
      if (row.next.goes === 'calendar') return router.push('/calendar');
      if (row.next.goes === 'before-wipe') return router.push(`/handsets/${row.id}?part=wipe`);
      router.push(`/rounds/new?handset=${row.id}`);
    },
    [router],
  );
  useKeys(
    useMemo(
      () => [
        { key: 'Enter', does: 'do what comes next', run: () => act(sorted[focused]) },
        { key: 'k', does: 'handset up', run: () => setFocused((at) => Math.max(0, at - 1)) },
        {
          key: 'j',
          does: 'handset down',
          run: () => setFocused((at) => Math.min(sorted.length - 1, at + 1)),
        },
      ],
      [act, sorted, focused],
    ),
  );
  useRoomWhy(useMemo(() => <BenchWhy row={sorted[focused]} />, [sorted, focused]));
  if (rows.length === 0) {
    return <EmptyBench away={away} />;
  }
  return (
    <div className={styles.room}>
      <div className={styles.lead}>
        <h1>
          {benchHeadline(rows, monthName(now)).map((line) => (
            <span key={line}>{line}</span>
          ))}
        </h1>
        <div className={styles.side}>
          <span className="soft">{formatWeekday(now)}</span>
          <AddHandset />
        </div>
      </div>
      <Axis view={view} months={months} now={now} onView={setView} />
      {sorted.map((row, i) => (
        <BenchLine
          key={row.id}
          row={row}
          now={now}
          months={months}
          asTable={view === 'table'}
          focused={i === focused}
          index={i}
          onFocus={setFocused}
          onAct={act}
        />
      ))}
      <Together rows={sorted} />
      <BenchFoot rows={sorted} />
      <PutAway away={away} />
    </div>
  );
}

interface AxisProps {
  readonly view: BenchViewKind;
  readonly months: number;
  readonly now: number;
  readonly onView: (view: BenchViewKind) => void;
}

/** What stands over the lines, and how far back they go. */
function Axis({ view, months, now, onView }: AxisProps) {
  return (
    <div className={styles.axis}>
      <span>
        Handset, build{' '}
        <Segmented
          size="small"
          aria-label="How far back"
          value={view}
          onChange={onView}
          options={[
            { value: 'months' as const, label: '10 months' },
            { value: 'years' as const, label: '4 years' },
            { value: 'table' as const, label: 'table' },
          ]}
        />
      </span>
      <span
        className={styles.months}
        style={months === TEN_MONTHS ? undefined : { gridTemplateColumns: `repeat(${months}, 1fr)` }}
        aria-hidden="true"
      >
        {months === TEN_MONTHS
          ? monthStarts(bandRange(now, months))
              .slice(0, 10)
              .map((at) => <span key={at}>{monthName(at)}</span>)
          : yearStarts(bandRange(now, months)).map(({ at, share }) => (
              <span key={at} style={{ gridColumn: `span ${share}` }}>
                {share >= LEAST_LABELLED ? new Date(at).getUTCFullYear() : ''}
              </span>
            ))}
      </span>
      <span>What comes next</span>
    </div>
  );
}

/** Months of a year that leave room for its name. */
const LEAST_LABELLED = 4;

interface LineProps {
  readonly row: BenchRow;
  readonly now: number;
  readonly months: number;
  readonly asTable: boolean;
  readonly focused: boolean;
  readonly index: number;
  readonly onFocus: (index: number) => void;
  readonly onAct: (row: BenchRow) => void;
}

/** Drawn again only when it changes itself: the pointer passes over dozens of rows while one scrolls. */
const BenchLine = memo(function BenchLine({
  row,
  now,
  months,
  asTable,
  focused,
  index,
  onFocus,
  onAct,
}: LineProps) {
  const point = () => onFocus(index);
  return (
    <section
      className={styles.row}
      data-focused={focused}
      aria-label={row.name}
      onFocus={point}
      onMouseEnter={point}
    >
      <Link href={`/handsets/${row.id}`} className={styles.who}>
        <StateMark state={row.root} size={24} />
        <span>
          <span className={styles.name}>{row.name}</span>
          <br />
          <span className="soft">{row.model}</span>
          <br />
          <span className="mono small">{row.build ?? 'build not known'}</span>
        </span>
      </Link>
      {asTable ? (
        <HeldWords spans={row.spans} now={now} />
      ) : (
        <ContinuityBand
          spans={row.spans}
          builds={row.builds}
          begun={row.begun}
          waiting={row.waiting}
          now={now}
          months={months}
          label={`${row.name}: root over the last ${months === TEN_MONTHS ? 'ten months' : 'four years'}`}
        />
      )}
      <div className={styles.next}>
        <div>
          {nextWords(row.next.says)}
          {row.next.meanwhile ? <div className="wait small">{waitingWords(row.next.meanwhile)}</div> : null}
          {row.next.daysBehind > 0 ? (
            <div className="soft small">
              {row.next.daysBehind === 1 ? 'one day' : `${row.next.daysBehind} days`} behind
            </div>
          ) : null}
        </div>
        <span className={styles.acts}>
          <Button type={focused && row.next.urgent ? 'primary' : 'default'} onClick={() => onAct(row)}>
            {NEXT_BUTTONS[row.next.says.code]}
          </Button>
          {row.link === 'hand' && row.root !== 'broken' ? <NotStarting row={row} /> : null}
        </span>
      </div>
    </section>
  );
});

const DAY_MS = 86_400_000;

/** The band in numbers. */
function HeldWords({ spans, now }: { readonly spans: BenchRow['spans']; readonly now: number }) {
  const [all, setAll] = useState(false);
  const share = shareWithRoot(spans);
  const last = spans.at(-1);
  if (!last || share === null) return <p className="soft">Nothing is known of its root yet.</p>;
  const rows = [
    ['Now', `${ROOT_WORDS[last.state]} since ${formatDay(last.from)}`],
    ['Days with root', `${Math.round(share * 100)} %`],
    ['Longest run', `${Math.floor(longestRun(spans) / DAY_MS)} days`],
    ['Lost or broken', formatSeconds(minutesWithoutRoot(spans, 0, now) * 60)],
  ] as const;
  return (
    <div>
      <table className={styles.held}>
        <tbody>
          {rows.map(([what, value]) => (
            <tr key={what}>
              <td className="soft">{what}</td>
              <td>{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <details onToggle={(event) => setAll(event.currentTarget.open)}>
        <summary className="small">Every change</summary>
        {all ? <SpanTable spans={spans} /> : null}
      </details>
    </div>
  );
}

const BenchFoot = memo(function BenchFoot({ rows }: { rows: readonly BenchRow[] }) {
  return (
    <div className={styles.foot}>
      <div>
        <h3>Way back to stock, right now</h3>
        <ul>
          {rows.map((row) => (
            <li key={row.id}>
              <span>{row.name}</span>
              <span className={row.wayBack.open ? '' : 'bad'}>{wayBackWords(row.wayBack.says)}</span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h3>Out and not installed</h3>
        <ul>
          {rows.map((row) =>
            row.waiting ? (
              <li key={row.id}>
                <span>{row.name}</span>
                <span
                  className={row.readiness.verdict === 'hold' ? 'wait' : ''}
                  title={readinessWords(row.readiness)}
                >
                  <span className="mono">{row.waiting.buildId}</span> {READY_WORDS[row.readiness.verdict]}
                </span>
              </li>
            ) : null,
          )}
        </ul>
        {rows.every((row) => row.waiting === null) ? (
          <p className="soft">Nothing: every handset has the newest build known.</p>
        ) : null}
      </div>
      <div>
        <h3>What the marks say</h3>
        <ul>
          {(['proven', 'unproven', 'lost', 'stock'] as const).map((state) => (
            <li key={state}>
              <span>{ROOT_WORDS[state]}</span>
              <StateMark state={state} size={16} />
            </li>
          ))}
          <li>
            <span>a round was begun; a build came out</span>
            <span aria-hidden="true">○ above, ● below</span>
          </li>
        </ul>
      </div>
    </div>
  );
});

const READY_WORDS: Readonly<Record<BenchRow['readiness']['verdict'], string>> = {
  go: '✓ go',
  hold: '‖ hold',
  "can't tell": '? can’t tell',
  'up to date': '',
};

function BenchWhy({ row }: { row: BenchRow | undefined }) {
  if (!row) return null;
  return (
    <>
      <h2>{row.name}</h2>
      <p style={{ margin: '6px 0 12px' }}>{nextWords(row.next.says)}</p>
      <table className="ledger">
        <tbody>
          <tr>
            <td className="soft">Root</td>
            <td>
              {ROOT_WORDS[row.root]}
              {row.spans.length > 0 ? ` since ${formatDay(row.spans.at(-1)!.from)}` : ''}
            </td>
          </tr>
          <tr>
            <td className="soft">Installed</td>
            <td className="mono">{row.build ?? 'not known'}</td>
          </tr>
          <tr>
            <td className="soft">Newest known</td>
            <td className="mono">
              {row.waiting
                ? `${row.waiting.buildId}, ${formatDay(row.waiting.at)}`
                : (row.builds.at(-1)?.buildId ?? 'not known')}
            </td>
          </tr>
          <tr>
            <td className="soft">Next build</td>
            <td>{readinessWords(row.readiness)}</td>
          </tr>
          <tr>
            <td className="soft">Way back</td>
            <td>{wayBackWords(row.wayBack.says)}</td>
          </tr>
        </tbody>
      </table>
    </>
  );
}

import { Button, Checkbox, InputNumber } from 'antd';
import { Link } from '@/ui/link';
import { useState } from 'react';
import type { CalendarHandset, CalendarView } from '@/contracts/calendar-view';
import { ErrorNote } from '@/ui/error-note';
import { formatDay } from '@/ui/format';
import { useAct } from '@/ui/use-act';
import { saveRuleAction } from './actions';
import styles from './calendar.module.css';
import { readinessReasonWords } from '@/core/words/readiness';
import { waitingWords } from '@/core/words/schedule';

const READY: Readonly<Record<CalendarHandset['readiness']['verdict'], string>> = {
  go: '✓ go',
  hold: '‖ hold',
  "can't tell": '? can’t tell',
  'up to date': '– up to date',
};
const days = (n: number) => (n === 1 ? 'one day' : `${Math.round(n)} days`);

/** A row a handset: how far behind, ready or held on what, when the next is due, what it waits for. */
export function HandsetTimes({ view }: { readonly view: CalendarView }) {
  if (view.handsets.length === 0)
    return (
      <p className="soft">
        No handset is on the bench yet. <Link href="/">Put one there</Link>, and its builds show when the next
        is due.
      </p>
    );
  return (
    <table className="ledger" aria-label="Handsets">
      <thead>
        <tr>
          <th>Handset</th>
          <th>Behind</th>
          <th>Ready</th>
          <th>The next is due</th>
          <th>Followed after</th>
          <th>Waiting rule</th>
          <th>Open</th>
        </tr>
      </thead>
      <tbody>
        {view.handsets.map((handset) => (
          <Row key={handset.id} handset={handset} />
        ))}
      </tbody>
    </table>
  );
}

function Row({ handset }: { readonly handset: CalendarHandset }) {
  const { cadence, readiness, waiting, wait, clocks, putBacks } = handset;
  return (
    <tr>
      <td>
        <Link href={`/handsets/${handset.id}`}>{handset.name}</Link>
        <div className="mono small soft">{handset.build ?? 'build not known'}</div>
      </td>
      <td>
        {waiting ? days(handset.daysBehind) : <span className="soft">not behind</span>}
        {waiting ? <div className="mono small soft">{waiting.buildId}</div> : null}
      </td>
      <td style={{ maxWidth: 250 }}>
        <b className={readiness.verdict === 'hold' ? 'wait' : ''}>{READY[readiness.verdict]}</b>
        {readiness.reasons.length > 0 ? (
          <div className="small">{readiness.reasons.map(readinessReasonWords).join('; ')}</div>
        ) : null}
      </td>
      <td>
        {cadence.next ? (
          <>
            about {formatDay(cadence.next.at)}
            <div className="small soft">
              {formatDay(cadence.next.from)} to {formatDay(cadence.next.to)}; every {days(cadence.days!)}
            </div>
          </>
        ) : (
          <span className="soft">too few builds known</span>
        )}
      </td>
      <td>
        {cadence.followDays === null ? <span className="soft">never yet</span> : days(cadence.followDays)}
      </td>
      <td>
        {wait && !wait.over ? <div className="wait small">{waitingWords(wait.says)}</div> : null}
        <Rule handset={handset} />
      </td>
      <td className="small">
        {clocks.map((clock) => (
          <div key={clock.id}>
            {clock.what} <span className="soft">until {formatDay(clock.endsAt)}</span>
          </div>
        ))}
        {putBacks.map(({ id, what, openedAt }) => (
          <div key={id} className="wait">
            put back: {what} <span className="soft">since {formatDay(openedAt)}</span>
          </div>
        ))}
        {clocks.length + putBacks.length === 0 ? <span className="soft">nothing</span> : null}
      </td>
    </tr>
  );
}

const ruleWords = ({ days: count, kit, modules }: CalendarHandset['rule']) =>
  [
    count > 0 ? days(count) : '',
    kit ? 'until a kit is known to work' : '',
    modules > 0 ? `until ${modules} modules are` : '',
  ]
    .filter((part) => part !== '')
    .join(', ') || 'at once';

function Rule({ handset: { id, rule } }: { readonly handset: CalendarHandset }) {
  const { act, busy, error, dismiss } = useAct();
  const [wanted, setWanted] = useState(rule);
  return (
    <details>
      <summary className="small">{ruleWords(rule)}</summary>
      <div className={styles.rule}>
        <label>
          <InputNumber
            size="small"
            min={0}
            max={120}
            value={wanted.days}
            onChange={(value) => setWanted({ ...wanted, days: value ?? 0 })}
            style={{ width: 64 }}
            aria-label="Days to wait"
          />{' '}
          days
        </label>
        <Checkbox
          checked={wanted.kit}
          onChange={(event) => setWanted({ ...wanted, kit: event.target.checked })}
        >
          until a kit is known to work on it
        </Checkbox>
        <label>
          until{' '}
          <InputNumber
            size="small"
            min={0}
            max={200}
            value={wanted.modules}
            onChange={(value) => setWanted({ ...wanted, modules: value ?? 0 })}
            style={{ width: 64 }}
            aria-label="Modules known to work"
          />{' '}
          of its modules are
        </label>
        <Button
          size="small"
          loading={busy}
          onClick={() => act(() => saveRuleAction({ handsetId: id, ...wanted }))}
        >
          Keep this rule
        </Button>
        {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      </div>
    </details>
  );
}

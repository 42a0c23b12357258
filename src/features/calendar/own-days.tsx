import { Button, Checkbox, DatePicker, Input } from 'antd';
import dayjs from 'dayjs';
import type { Dayjs } from 'dayjs';
import { useState } from 'react';
import type { CalendarView } from '@/contracts/calendar-view';
import { ErrorNote } from '@/ui/error-note';
import { formatDay } from '@/ui/format';
import { useAct } from '@/ui/use-act';
import { addDayAction, removeDayAction } from './actions';
import styles from './calendar.module.css';

const DAY_MS = 86_400_000;
const midnight = (day: Dayjs) => Date.UTC(day.year(), day.month(), day.date());

/** Stretches of the person's own; in a quiet one nothing is changed. */
export function OwnDays({ view }: { readonly view: CalendarView }) {
  const { act, busy, error, dismiss } = useAct();
  const [what, setWhat] = useState('');
  const [range, setRange] = useState<readonly [Dayjs, Dayjs] | null>(null);
  const [quiet, setQuiet] = useState(true);
  const add = () =>
    range &&
    act(
      () => addDayAction({ what, from: midnight(range[0]), to: midnight(range[1]) + DAY_MS, quiet }),
      () => setWhat(''),
    );
  return (
    <section aria-label="Your own days">
      <h2>Your own days</h2>
      <div className={styles.own}>
        <Input
          aria-label="What is on"
          placeholder="survey weekend"
          style={{ width: 220 }}
          value={what}
          onChange={(event) => setWhat(event.target.value)}
        />
        <DatePicker.RangePicker
          aria-label="From and to"
          defaultPickerValue={[dayjs(view.month), dayjs(view.month)]}
          onChange={(chosen) => setRange(chosen?.[0] && chosen[1] ? [chosen[0], chosen[1]] : null)}
        />
        <Checkbox checked={quiet} onChange={(event) => setQuiet(event.target.checked)}>
          nothing is changed then
        </Checkbox>
        <Button loading={busy} disabled={what.trim() === '' || range === null} onClick={add}>
          Keep these days
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {view.own.length === 0 ? null : (
        <table className="ledger">
          <tbody>
            {view.own.map((one) => (
              <tr key={one.uid}>
                <td>{one.what}</td>
                <td>
                  {formatDay(one.from)} to {formatDay(one.to - 1)}
                </td>
                <td>{one.quiet ? '‖ nothing is changed' : ''}</td>
                <td style={{ textAlign: 'right' }}>
                  <Button size="small" disabled={busy} onClick={() => act(() => removeDayAction(one.uid))}>
                    Take it out
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

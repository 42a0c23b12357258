import type { CalendarItem, CalendarKind, CalendarView } from '@/contracts/calendar-view';
import { weeksOf } from '@/core/schedule/month';
import { formatDay } from '@/ui/format';
import styles from './calendar.module.css';

const DAY_MS = 86_400_000;
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
/** A sign before the words, so that no colour has to say it. */
const SIGNS: Readonly<Record<CalendarKind, string>> = {
  out: '▸',
  expected: '~',
  round: '✓',
  clock: '»',
  'put back': '‹',
  'waiting ends': '»',
  own: '·',
  quiet: '‖',
};
const SHOWN = 4;

/** What goes on for longer shows on its first day, and as a bar on the others. */
const on = (items: readonly CalendarItem[], at: number) =>
  items.filter((item) => item.from < at + DAY_MS && item.to > at);

/** The month of the whole bench; each day lists what is on it. */
export function MonthGrid({ view }: { readonly view: CalendarView }) {
  return (
    <table className={styles.month}>
      <thead>
        <tr>
          {DAYS.map((day) => (
            <th key={day} scope="col">
              {day}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {weeksOf(view.month).map((week) => (
          <tr key={week[0]!.at}>
            {week.map(({ at, day, inside }) => {
              const items = on(view.items, at);
              return (
                <td
                  key={at}
                  data-outside={!inside}
                  data-today={view.now >= at && view.now < at + DAY_MS}
                  data-quiet={items.some((item) => item.kind === 'quiet')}
                >
                  <time dateTime={new Date(at).toISOString().slice(0, 10)}>{day}</time>
                  <ul>
                    {items.slice(0, SHOWN).map((item) => (
                      <li
                        key={item.uid}
                        data-kind={item.kind}
                        title={`${item.what}, ${formatDay(item.from)}${item.to - item.from > DAY_MS ? ` to ${formatDay(item.to - 1)}` : ''}`}
                      >
                        <span aria-hidden="true">{SIGNS[item.kind]}</span>{' '}
                        {item.from >= at || at === week[0]!.at ? (
                          item.what
                        ) : (
                          <span className="visually-hidden">{item.what}</span>
                        )}
                      </li>
                    ))}
                    {items.length > SHOWN ? <li className="soft">and {items.length - SHOWN} more</li> : null}
                  </ul>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

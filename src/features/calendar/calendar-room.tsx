'use client';
import { Button } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { CalendarView } from '@/contracts/calendar-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { monthText, nextMonth } from '@/core/schedule/month';
import { ErrorNote } from '@/ui/error-note';
import { formatMonth } from '@/ui/format';
import { NextStrip } from '@/ui/next-strip';
import { NoticeSwitch } from '@/ui/frame/notice-switch';
import { sendCalendar } from '@/ui/send';
import { calendarNext } from './calendar-next';
import styles from './calendar.module.css';
import { HandsetTimes } from './handset-times';
import { MonthGrid } from './month-grid';
import { OwnDays } from './own-days';

/** What is out and waits, what comes next and when, and the days on which nothing is changed. */
export function CalendarRoom({ view }: { readonly view: CalendarView }) {
  const next = calendarNext(view.handsets);
  return (
    <div className={styles.room}>
      <div className={styles.head}>
        <h1>{next.title}</h1>
        <CalendarFile />
      </div>
      {view.handsets.length === 0 ? null : (
        <NextStrip
          action={
            <Link href={next.href}>
              <Button type="primary">{next.button}</Button>
            </Link>
          }
        >
          {next.sentence}
        </NextStrip>
      )}
      <HandsetTimes view={view} />
      <div className={styles.monthHead}>
        <h2>{formatMonth(view.month)}</h2>
        <Link href={`/calendar?month=${monthText(nextMonth(view.month, -1))}`} aria-label="The month before">
          ← before
        </Link>
        <Link href="/calendar">this month</Link>
        <Link href={`/calendar?month=${monthText(nextMonth(view.month, 1))}`} aria-label="The month after">
          after →
        </Link>
      </div>
      <MonthGrid view={view} />
      <OwnDays view={view} />
    </div>
  );
}

function CalendarFile() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const bringIn = async (file: File | undefined) => {
    if (!file) return;
    setError(null);
    try {
      const { fresh, changed, same, ours } = await sendCalendar(await file.text());
      setSaid(
        `${fresh} new, ${changed} changed, ${same} as they were${ours > 0 ? `, ${ours} that Eterno made itself skipped` : ''}.`,
      );
      router.refresh();
    } catch (thrown) {
      setError(toEternoError(thrown, 'io').toData());
    }
  };
  return (
    <div className={styles.file}>
      <NoticeSwitch />
      <a href="/api/calendar" download="eterno.ics">
        <Button>Download the calendar file</Button>
      </a>
      <Button onClick={() => input.current?.click()}>Bring a calendar file in</Button>
      <input
        ref={input}
        type="file"
        accept=".ics,text/calendar"
        hidden
        aria-label="A calendar file"
        onChange={(event) => {
          void bringIn(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
      {said ? (
        <span className="soft small" role="status">
          {said}
        </span>
      ) : null}
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </div>
  );
}

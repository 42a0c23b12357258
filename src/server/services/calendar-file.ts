import 'server-only';
import ICAL from 'ical.js';
import type { CalendarItem } from '@/contracts/calendar-view';
import { EternoError } from '@/core/errors';
import type { CalendarEntryRow } from '../db/models';
import { keepEntries, listEntries } from '../repositories/calendar-repository';
import { plainCalendar } from '@/core/schedule/plain-calendar';
import { calendarView } from './calendar-service';
import { now } from './clock';

/* The calendar as a file that ordinary calendars take, and their files back. Times are written in UTC. */

export const CALENDAR_BYTES = 4 * 1024 * 1024;
const MOST_EVENTS = 5000;
const OURS = /@eterno$/;
// the library counts a folded line without the space it begins with
ICAL.foldLength = 74;

const dateOf = (at: number) => ICAL.Time.fromDateString(new Date(at).toISOString().slice(0, 10));
const timeOf = (at: number) => ICAL.Time.fromJSDate(new Date(at), true);

/** RFC 5545, folded and escaped by the library; the UID of a thing is the same in every export. */
export function calendarText(items: readonly CalendarItem[], stampedAt: number): string {
  const calendar = new ICAL.Component('vcalendar');
  calendar.addPropertyWithValue('version', '2.0');
  calendar.addPropertyWithValue('prodid', '-//Eterno//Calendar 1//EN');
  for (const item of items) {
    const event = new ICAL.Component('vevent');
    const date = item.allDay ? dateOf : timeOf;
    event.addPropertyWithValue('uid', item.uid);
    event.addPropertyWithValue('dtstamp', timeOf(stampedAt));
    event.addPropertyWithValue('dtstart', date(item.from));
    event.addPropertyWithValue('dtend', date(item.to));
    // the library escapes line feeds only: a bare return would begin a line of its own in some readers
    event.addPropertyWithValue('summary', item.what.replace(/\r\n?/g, '\n'));
    event.addPropertyWithValue('categories', item.kind);
    event.addPropertyWithValue('transp', item.kind === 'quiet' ? 'OPAQUE' : 'TRANSPARENT');
    calendar.addSubcomponent(event);
  }
  return `${calendar.toString()}\r\n`;
}

/** The whole calendar. Nothing private is in it. */
export async function calendarResponse(): Promise<Response> {
  const { items } = await calendarView(now());
  return new Response(calendarText(items, now()), {
    headers: {
      'content-type': 'text/calendar; charset=utf-8',
      'content-disposition': 'attachment; filename="eterno.ics"',
      'cache-control': 'no-store',
    },
  });
}

export interface BroughtIn {
  readonly fresh: number;
  readonly changed: number;
  readonly same: number;
  /** Ours, which are made anew from what is known. */
  readonly ours: number;
}

const utc = (time: ICAL.Time) =>
  time.isDate ? Date.UTC(time.year, time.month - 1, time.day) : time.toJSDate().getTime();

/**
 * Events of any calendar become days of the person's own, each UID once however often it is brought in.
 * @throws {EternoError} `bad-magic` for what is no calendar, `bad-field`, `too-large`
 */
export async function bringInCalendar(text: string): Promise<BroughtIn> {
  if (text.length > CALENDAR_BYTES) throw new EternoError('too-large', 'A calendar file has at most 4 MiB.');
  const rows = parseCalendar(text);
  const ours = rows.filter(({ uid }) => OURS.test(uid));
  const here = new Map((await listEntries()).map((entry) => [entry.uid, entry]));
  // our own days that the person added are theirs; everything else of ours is worked out, not kept
  const theirs = rows.filter(({ uid }) => !OURS.test(uid) || here.has(uid));
  const changed = theirs.filter((row) => {
    const held = here.get(row.uid);
    return held && (held.what !== row.what || held.startsAt !== row.startsAt || held.endsAt !== row.endsAt);
  });
  const fresh = theirs.filter((row) => !here.has(row.uid));
  await keepEntries(
    [...fresh, ...changed].map((row) => ({ ...row, quiet: here.get(row.uid)?.quiet ?? row.quiet })),
  );
  return {
    fresh: fresh.length,
    changed: changed.length,
    same: theirs.length - fresh.length - changed.length,
    ours: ours.filter(({ uid }) => !here.has(uid)).length,
  };
}

function parseCalendar(text: string): CalendarEntryRow[] {
  let calendar: ICAL.Component;
  try {
    calendar = new ICAL.Component(ICAL.parse(plainCalendar(text)) as unknown[]);
  } catch (thrown) {
    if (thrown instanceof EternoError) throw thrown;
    throw new EternoError('bad-magic', 'This cannot be read as a calendar file.', { cause: thrown });
  }
  if (calendar.name !== 'vcalendar') throw new EternoError('bad-magic', 'This is no calendar file.');
  const events = calendar.getAllSubcomponents('vevent');
  if (events.length > MOST_EVENTS)
    throw new EternoError('too-large', `A calendar file has at most ${MOST_EVENTS} events.`);
  const rows = new Map<string, CalendarEntryRow>();
  for (const [i, component] of events.entries()) {
    try {
      const event = new ICAL.Event(component);
      const [from, to] = [utc(event.startDate), utc(event.endDate)];
      if (!event.uid || event.uid.length > 300 || !Number.isFinite(from) || !Number.isFinite(to))
        throw new Error('no UID or no time');
      const quiet =
        OURS.test(event.uid) || String(component.getFirstPropertyValue('transp') ?? 'OPAQUE') !== 'OPAQUE'
          ? 'no'
          : 'yes';
      rows.set(event.uid, {
        uid: event.uid,
        what: (event.summary ?? '').slice(0, 300) || 'no name',
        startsAt: from,
        endsAt: Math.max(to, from + 60_000),
        quiet,
        at: now(),
      });
    } catch (thrown) {
      throw new EternoError('bad-field', `Event ${i + 1} has no UID or no time that can be read.`, {
        cause: thrown,
      });
    }
  }
  return [...rows.values()];
}

import ICAL from 'ical.js';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { CalendarItem } from '@/contracts/calendar-view';
import { recordBuild } from '@/server/repositories/image-repository';
import { insertClock } from '@/server/repositories/record-repository';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { bringInCalendar, calendarResponse, calendarText } from '@/server/services/calendar-file';
import { addEntry, calendarView, saveWaitingRule } from '@/server/services/calendar-service';
import { duesNow } from '@/server/services/due-service';
import { frameView } from '@/server/services/frame-service';
import { closePutBackByHand, notePutBack, openPutBacks } from '@/server/services/put-back-service';
import { noteClock } from '@/server/services/record-service';
import { codeOf } from '../fixtures/expect-error';
import { FINGERPRINT } from '../fixtures/images';
import { DUMP, freshServer } from '../fixtures/server-world';
import { rawRound } from '../fixtures/raw-round';

/* The calendar on a real database, and its file read back by the library that ordinary calendars use too. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => {
  server = await freshServer();
});
afterEach(() => server.end());

const DAY = 86_400_000;
const item = (change: Partial<CalendarItem> = {}): CalendarItem => ({
  uid: 'x@eterno',
  kind: 'out',
  what: 'plain',
  from: Date.UTC(2026, 10, 5),
  to: Date.UTC(2026, 10, 6),
  allDay: true,
  handset: null,
  ...change,
});
const eventsOf = (text: string) =>
  new ICAL.Component(ICAL.parse(text) as unknown[])
    .getAllSubcomponents('vevent')
    .map((component) => new ICAL.Event(component));

describe('the calendar file', () => {
  it('folds at 75 bytes, escapes what has a meaning, and ends its lines as it must', () => {
    const what = `${'Über den Grat, dann; hinunter\\ '.repeat(6)}\nand home`;
    const text = calendarText([item({ what })], 0);
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    expect(text.replaceAll('\r\n', '')).not.toContain('\n');
    expect(eventsOf(text)[0]!.summary).toBe(what);
  });
  it('keeps whole days as days and times in UTC', () => {
    const [day, hour] = eventsOf(
      calendarText(
        [
          item(),
          item({
            uid: 'y@eterno',
            allDay: false,
            from: Date.UTC(2026, 10, 5, 18, 20),
            to: Date.UTC(2026, 10, 5, 18, 35),
          }),
        ],
        0,
      ),
    );
    expect(day!.startDate.isDate).toBe(true);
    expect(day!.startDate.toString()).toBe('2026-11-05');
    expect(hour!.startDate.toString()).toBe('2026-11-05T18:20:00Z');
  });
});

async function onBench(): Promise<string> {
  const handset = await addHandset('North', DUMP);
  for (const [i, month] of ['260705', '260805', '260905', '261005'].entries())
    await recordBuild({
      fingerprint: FINGERPRINT.replace('260905', month),
      product: 'hill_eu',
      device: 'hill',
      buildId: `HC1.${month}.007`,
      patchLevel: `2026-${month.slice(2, 4)}-05`,
      publishedAt: Date.now() - (95 - 30 * i) * DAY,
    });
  return handset;
}

describe('the calendar of the bench', () => {
  it('tells what is out, what is due, what waits and until when', async () => {
    const handset = await onBench();
    await saveWaitingRule(handset, { days: 10, kit: false, modules: 0 });
    await noteClock({ handsetId: handset, kind: 'unlock switch', endsAt: Date.now() + 3 * DAY, note: '' });
    const { handsets, items } = await calendarView(Date.now());
    expect(handsets[0]).toMatchObject({ daysBehind: 5, rule: { days: 10 }, wait: { over: false } });
    expect(handsets[0]!.cadence.days).toBeCloseTo(30, 1);
    const kinds = items.map(({ kind }) => kind);
    for (const kind of ['out', 'expected', 'clock', 'waiting ends']) expect(kinds).toContain(kind);
  });

  it('learns how fast builds are followed from rounds that were closed on one', async () => {
    const handset = await onBench();
    const follow = async () => (await calendarView(Date.now())).handsets[0]!.cadence.followDays;
    const ended = (state: 'closed' | 'given-up', daysAfter: number) =>
      rawRound(handset, {
        state,
        target: FINGERPRINT,
        openedAt: Date.now() - (35 - daysAfter + 1) * DAY,
        closedAt: Date.now() - (35 - daysAfter) * DAY,
      });
    expect(await follow()).toBeNull();
    await ended('given-up', 9);
    expect(await follow()).toBeNull();
    await ended('closed', 4);
    expect(await follow()).toBeCloseTo(4, 1);
  });

  it('keeps the UID of what is open when other things are closed before it, and puts it where it was opened', async () => {
    const handset = await onBench();
    for (const what of ['debugging', 'screen lock']) await notePutBack(handset, null, what);
    await noteClock({ handsetId: handset, kind: 'mailed code', endsAt: Date.now() + DAY, note: 'one' });
    await noteClock({ handsetId: handset, kind: 'return window', endsAt: Date.now() + 2 * DAY, note: 'two' });
    const open = async () =>
      (await calendarView(Date.now())).items.filter(({ kind }) => kind === 'put back' || kind === 'clock');
    const before = await open();
    expect(before).toHaveLength(4);
    const [first] = await openPutBacks(handset);
    await closePutBackByHand(handset, first!.id, 'done');
    const after = await open();
    expect(after.map(({ uid }) => uid)).toEqual(
      before.map(({ uid }) => uid).filter((uid) => uid !== `putback-${first!.id}@eterno`),
    );
    expect(after.find(({ kind }) => kind === 'put back')!.from).toBe(Math.floor(first!.openedAt / DAY) * DAY);
  });

  it('tells in every room what is due, and when the next wait ends', async () => {
    const handset = await onBench();
    expect(await duesNow()).toEqual({ dues: [], nextAt: null });
    await saveWaitingRule(handset, { days: 10, kit: false, modules: 0 });
    const { nextAt } = await duesNow();
    expect(nextAt! - Date.now()).toBeGreaterThan(4 * DAY);
    expect(nextAt! - Date.now()).toBeLessThanOrEqual(5 * DAY);
    expect((await benchRows())[0]!.waits).not.toBeNull();
    await saveWaitingRule(handset, { days: 3, kit: false, modules: 0 });
    expect((await benchRows())[0]!.waits).toBeNull();
    await insertClock({
      handsetId: handset,
      kind: 'unlock switch',
      endsAt: Date.now() - 1,
      note: '',
      doneAt: null,
    });
    await notePutBack(handset, null, 'screen lock');
    const { dues } = await duesNow();
    expect(dues.map(({ says }) => says)).toMatchObject([
      { code: 'clock-over', what: 'unlock switch' },
      { code: 'waited' },
      { code: 'not-put-back', what: 'screen lock' },
    ]);
    expect((await frameView()).dues).toEqual(dues);
  });

  it('gives every thing the same UID in each export, and holds nothing twice however often its file comes back', async () => {
    await onBench();
    await addEntry('Survey weekend', Date.UTC(2026, 10, 14), Date.UTC(2026, 10, 16), true);
    const first = await (await calendarResponse()).text();
    const uids = eventsOf(first).map((event) => event.uid);
    expect(new Set(uids).size).toBe(uids.length);
    const before = (await calendarView(0)).items.map(({ uid }) => uid);
    expect(await bringInCalendar(first)).toMatchObject({ fresh: 0, changed: 0, same: 1 });
    expect((await calendarView(0)).items.map(({ uid }) => uid)).toEqual(before);
    expect(eventsOf(await (await calendarResponse()).text()).map((event) => event.uid)).toEqual(uids);
  });

  it('takes events of another calendar with their time zones, each UID once, and changes what has moved', async () => {
    const theirs = (start: string) =>
      `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VTIMEZONE\r\nTZID:Hill/Time\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nTZOFFSETFROM:+0200\r\nTZOFFSETTO:+0200\r\nEND:STANDARD\r\nEND:VTIMEZONE\r\nBEGIN:VEVENT\r\nUID:club-7\r\nSUMMARY:Hut evening\r\nDTSTART;TZID=Hill/Time:${start}\r\nDURATION:PT2H\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
    expect(await bringInCalendar(theirs('20261120T190000'))).toMatchObject({ fresh: 1 });
    expect((await calendarView(0)).own).toMatchObject([
      { what: 'Hut evening', from: Date.UTC(2026, 10, 20, 17), to: Date.UTC(2026, 10, 20, 19), quiet: true },
    ]);
    expect(await bringInCalendar(theirs('20261120T190000'))).toMatchObject({ fresh: 0, same: 1 });
    expect(await bringInCalendar(theirs('20261121T190000'))).toMatchObject({ fresh: 0, changed: 1 });
    expect((await calendarView(0)).own).toHaveLength(1);
  });

  it('refuses what is no calendar by type, and keeps nothing of a bad one', async () => {
    expect(await codeOf(() => bringInCalendar('not a calendar'))).toBe('bad-magic');
    expect(
      await codeOf(() =>
        bringInCalendar('BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nSUMMARY:x\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n'),
      ),
    ).toBe('bad-field');
    expect(await codeOf(() => addEntry('back', 5, 5, false))).toBe('bad-field');
    expect((await calendarView(0)).own).toEqual([]);
  });
});

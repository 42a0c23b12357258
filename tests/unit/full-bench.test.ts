import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { database } from '@/server/db/connection';
import { addHandset, benchRows } from '@/server/services/bench-service';
import { needHandset, readSubject, readSubjects } from '@/server/services/bench-reading';
import { calendarOfMonth, calendarView } from '@/server/services/calendar-service';
import { findWords } from '@/server/services/find-service';
import { logPage } from '@/server/services/log-page';
import { modulesView } from '@/server/services/module-service';
import { EVERYTHING } from '@/contracts/log-view';
import { fillBench } from '../fixtures/full-bench';
import { DUMP, freshServer } from '../fixtures/server-world';

/* A bench of many handsets and years: what is read, and how often, on the real database. */

let server: Awaited<ReturnType<typeof freshServer>>;
let few: Record<string, number>;
const rooms = {
  bench: benchRows,
  modules: () => modulesView(null, 'by chance'),
  calendar: () => calendarOfMonth(undefined),
};

async function queriesOf(work: () => Promise<unknown>): Promise<number> {
  const { sequelize } = await database();
  const asked = vi.spyOn(sequelize, 'query');
  await work();
  const count = asked.mock.calls.length;
  asked.mockRestore();
  return count;
}
async function queriesByRoom(): Promise<Record<string, number>> {
  const counts: Record<string, number> = {};
  for (const [name, room] of Object.entries(rooms)) counts[name] = await queriesOf(room);
  return counts;
}

beforeAll(async () => {
  server = await freshServer();
  await addHandset('North gate', DUMP);
  few = await queriesByRoom();
  await fillBench({ handsets: 12, months: 8, now: Date.now() });
});
afterAll(() => server.end());

describe('a bench of years', () => {
  it('asks the database no more often for dozens of handsets than for one', async () => {
    expect(few.bench).toBeGreaterThan(5);
    expect(await queriesByRoom()).toEqual(few);
  });

  it('knows of each handset what it knows when it is read alone', async () => {
    const all = await readSubjects();
    expect(all).toHaveLength(13);
    for (const subject of all)
      expect(JSON.stringify(await readSubject(await needHandset(subject.handset.id)))).toBe(
        JSON.stringify(subject),
      );
  });

  it('takes the newest report of each witness, and the slots of its own handset only', async () => {
    const [first, second] = await readSubjects();
    // the first still waits for the newest build of the two's model
    expect(first!.facts.typed.patchLevel! < second!.facts.typed.patchLevel!).toBe(true);
    expect([first, second].map((one) => one!.facts.dataPatchLevel)).toEqual(
      [first, second].map((one) => one!.facts.typed.patchLevel),
    );
    expect(first!.facts.resolved.find(({ key }) => key === 'buildId')!.reports).toHaveLength(2);
    expect(first!.history.rounds).toHaveLength(7);
    expect(second!.history.rounds).toHaveLength(8);
    expect(new Set(first!.history.slots.map(({ handsetId }) => handsetId))).toEqual(
      new Set([first!.handset.id]),
    );
  });

  it('says which handsets wait for the newest build, and which have it', async () => {
    const rows = await benchRows();
    const waiting = rows.filter((row) => row.waiting !== null).map((row) => row.name);
    expect(waiting).toEqual(['Survey 01', 'Survey 06', 'Survey 11']);
    expect(rows[2]!.spans.length).toBeGreaterThan(16);
  });

  it('shows of the calendar only the weeks of a month, and carries all of it out', async () => {
    const month = await calendarOfMonth(undefined);
    const all = await calendarView(Date.now());
    expect(month.items.length).toBeGreaterThan(0);
    expect(all.items.length).toBeGreaterThan(3 * month.items.length);
    const shown = new Set(month.items.map(({ uid }) => uid));
    expect(all.items.filter(({ uid }) => shown.has(uid))).toEqual(month.items);
  });
});

describe('a log of years', () => {
  it('comes a page at a time, and says what all of it comes to', async () => {
    const page = await logPage(EVERYTHING, 30);
    const more = await logPage(EVERYTHING, 60);
    expect([page.rounds.length, more.rounds.length, page.count, page.all]).toEqual([30, 60, 93, 93]);
    expect(more.rounds.slice(0, 30)).toEqual(page.rounds);
    expect(page.seconds).toBe(93 * 400);
    expect(page.stages.reduce((sum, { seconds }) => sum + seconds, 0)).toBe(page.seconds);
  });

  it('is narrowed before it is cut', async () => {
    const page = await logPage({ ...EVERYTHING, handset: 'Survey 12' }, 5);
    expect([page.rounds.length, page.count, page.all]).toEqual([5, 8, 93]);
    expect(page.held.map(({ handset }) => handset)).toEqual(['Survey 12']);
    expect(page.handsets).toHaveLength(12);
    expect((await logPage({ ...EVERYTHING, text: 'nowhere' }, 5)).count).toBe(0);
  });
});

describe('the search over the rooms', () => {
  it('finds handsets before images, by any part of a build or hash, and never more than help', async () => {
    const found = await findWords('survey 0');
    expect(found.map(({ label }) => label)).toEqual(Array.from({ length: 8 }, (_, i) => `Survey 0${i + 1}`));
    const row = (await benchRows()).at(-1);
    expect((await findWords(row!.build!.toLowerCase()))[0]).toEqual({
      label: 'North gate',
      href: `/handsets/${row!.id}`,
    });
    const image = (await findWords('init_boot patched'))[0]!;
    expect(image.href).toMatch(/^\/images\/[0-9a-f]{64}$/);
    expect(await findWords(image.href.slice(-20))).toEqual([image]);
    expect(await findWords('   ')).toEqual([]);
    expect(await findWords('no such thing')).toEqual([]);
  });
});

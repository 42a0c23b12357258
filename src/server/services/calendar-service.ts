import 'server-only';
import { randomUUID } from 'node:crypto';
import type { CalendarHandset, CalendarItem, CalendarView } from '@/contracts/calendar-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { cadenceOf } from '@/core/schedule/cadence';
import { monthStart, parseMonth, weeksOf } from '@/core/schedule/month';
import type { Waiting, WaitingRule } from '@/core/schedule/waiting-rule';
import { waitingOf } from '@/core/schedule/waiting-rule';
import { dropEntry, keepEntries, listEntries } from '../repositories/calendar-repository';
import { writeSetting } from '../repositories/setting-repository';
import { needHandset, readBench, readSubjects } from './bench-reading';
import { now } from './clock';
import { waitingKey } from './handset-history';
import type { Bench } from '@/core/bench/bench';
import type { KnownHandset } from './bench-reading';
import { nextBuild, readinessOf, rootOf } from '@/core/bench/judgements';
import { moduleIdsOf } from '@/core/bench/modules-judged';

const DAY_MS = 86_400_000;
export async function saveWaitingRule(handsetId: string, { days, kit, modules }: WaitingRule): Promise<void> {
  await needHandset(handsetId);
  await writeSetting(waitingKey(handsetId), JSON.stringify({ version: 1, days, kit, modules }));
}

/** @throws {EternoError} `bad-field` for one that ends before it begins */
export async function addEntry(what: string, from: number, to: number, quiet: boolean): Promise<void> {
  if (to <= from) throw new EternoError('bad-field', 'It ends before it begins.');
  await keepEntries([
    {
      uid: `${randomUUID()}@eterno`,
      what,
      startsAt: from,
      endsAt: to,
      quiet: quiet ? 'yes' : 'no',
      at: now(),
    },
  ]);
}
export const removeEntry = dropEntry;

const ownBuilds = ({ facts }: KnownHandset, { builds }: Bench) => {
  const product =
    facts.typed.fingerprint === null ? undefined : splitFingerprint(facts.typed.fingerprint)?.product;
  return builds.filter((build) => build.product === product);
};

/** Days from out to installed, for the builds that a round here ended on. */
function followed(subject: KnownHandset, bench: Bench): number[] {
  return subject.history.rounds.flatMap((round) => {
    if (round.state !== 'closed' || round.closedAt === null) return [];
    const build = bench.builds.find((one) => one.fingerprint === round.target);
    return build && round.closedAt > build.publishedAt ? [(round.closedAt - build.publishedAt) / DAY_MS] : [];
  });
}

/**
 * Whether a handset's next build still waits, by the person's own rule; null where no newer build is known.
 */
export function waitOf(subject: KnownHandset, bench: Bench): Waiting | null {
  const next = nextBuild(subject, bench);
  if (!next) return null;
  const ids = moduleIdsOf(subject);
  const worked = bench.moduleTrials.filter(
    (one) => one.fingerprint === next.fingerprint && one.outcome === 'worked' && ids.includes(one.module),
  );
  return waitingOf(subject.history.waitingRule, {
    buildId: next.buildId,
    publishedAt: next.publishedAt,
    kitKnown: bench.trials.some(
      (trial) =>
        trial.shelf === 'kit' && trial.fingerprint === next.fingerprint && trial.outcome === 'worked',
    ),
    modulesKnown: new Set(worked.map((one) => one.module)).size,
    modules: ids.length,
    quiet: bench.quiet,
    now: now(),
  });
}

function handsetOf(subject: KnownHandset, bench: Bench): CalendarHandset {
  const { handset, facts, history } = subject;
  const next = nextBuild(subject, bench);
  return {
    id: handset.id,
    name: handset.name,
    build: facts.typed.buildId,
    waiting: next && { buildId: next.buildId, at: next.publishedAt },
    daysBehind: next ? Math.max(0, Math.floor((now() - next.publishedAt) / DAY_MS)) : 0,
    cadence: cadenceOf(
      ownBuilds(subject, bench).map((build) => build.publishedAt),
      followed(subject, bench),
      now(),
    ),
    rule: history.waitingRule,
    wait: waitOf(subject, bench),
    readiness: readinessOf(subject, bench, rootOf(subject, bench)),
    putBacks: history.openPutBacks.map(({ id, what, openedAt }) => ({ id, what, openedAt })),
    clocks: history.openClocks.map(({ id, kind, endsAt, note }) => ({
      id,
      what: note === '' ? kind : `${kind}: ${note}`,
      endsAt,
    })),
  };
}

const dayOf = (at: number) => Math.floor(at / DAY_MS) * DAY_MS;
const QUARTER_HOUR = 15 * 60_000;

type ItemOf = Pick<CalendarItem, 'uid' | 'kind' | 'what' | 'from' | 'to' | 'allDay'>;

/** A whole day, or days up to the end of the last. */
const days = (
  uid: string,
  kind: CalendarItem['kind'],
  what: string,
  first: number,
  last: number,
): ItemOf => ({
  uid,
  kind,
  what,
  from: dayOf(first),
  to: Math.max(dayOf(last), dayOf(first)) + DAY_MS,
  allDay: true,
});
const hours = (uid: string, kind: CalendarItem['kind'], what: string, from: number, to: number): ItemOf => ({
  uid,
  kind,
  what,
  from,
  to,
  allDay: false,
});

/** What stands in the calendar for one handset. */
function itemsOfHandset(subject: KnownHandset, bench: Bench, handset: CalendarHandset): ItemOf[] {
  const { id, name, cadence, clocks, putBacks, wait, waiting } = handset;
  return [
    ...ownBuilds(subject, bench).map(({ buildId, publishedAt }) =>
      days(`out-${id}-${buildId}`, 'out', `${buildId} is out for ${name}`, publishedAt, publishedAt),
    ),
    ...(cadence.next
      ? [
          days(
            `expected-${id}`,
            'expected',
            `A build for ${name} is to be expected`,
            cadence.next.from,
            cadence.next.to,
          ),
        ]
      : []),
    ...clocks.map((clock) =>
      hours(
        `clock-${clock.id}`,
        'clock',
        `${name}: ${clock.what}`,
        clock.endsAt,
        clock.endsAt + QUARTER_HOUR,
      ),
    ),
    ...putBacks.map((one) =>
      days(`putback-${one.id}`, 'put back', `${name}: put back: ${one.what}`, one.openedAt, now()),
    ),
    ...(wait?.until
      ? [
          hours(
            `wait-${id}-${waiting!.buildId}`,
            'waiting ends',
            `${name}: ${waiting!.buildId} has waited long enough`,
            wait.until,
            wait.until + QUARTER_HOUR,
          ),
        ]
      : []),
    ...subject.history.rounds.map((round) =>
      hours(
        `round-${round.id}`,
        'round',
        `${round.title}, ${name}`,
        round.openedAt,
        Math.max(round.closedAt ?? now(), round.openedAt + 60_000),
      ),
    ),
  ];
}

function itemsOf(
  subjects: readonly KnownHandset[],
  bench: Bench,
  handsets: readonly CalendarHandset[],
  entries: Awaited<ReturnType<typeof listEntries>>,
): CalendarItem[] {
  const ofHandsets = handsets.flatMap((handset, i) =>
    itemsOfHandset(subjects[i]!, bench, handset).map((item) => ({
      ...item,
      uid: `${item.uid}@eterno`,
      handset: { id: handset.id, name: handset.name },
    })),
  );
  const own = entries.map((entry): CalendarItem => ({
    uid: entry.uid,
    kind: entry.quiet === 'yes' ? 'quiet' : 'own',
    what: entry.what,
    from: entry.startsAt,
    to: entry.endsAt,
    allDay: entry.startsAt % DAY_MS === 0 && entry.endsAt % DAY_MS === 0,
    handset: null,
  }));
  return [...ofHandsets, ...own].sort((a, b) => a.from - b.from || (a.uid < b.uid ? -1 : 1));
}

/**
 * What the Calendar room shows: the days of a month and of the weeks that it lies in.
 * @param text `YYYY-MM`; this month for anything else
 */
export async function calendarOfMonth(text: string | undefined): Promise<CalendarView> {
  const view = await calendarView(parseMonth(text) ?? monthStart(now()));
  const days = weeksOf(view.month).flat();
  const [from, to] = [days[0]!.at, days.at(-1)!.at + DAY_MS];
  return { ...view, items: view.items.filter((item) => item.from < to && item.to > from) };
}

/** Everything with a day to it; the whole of it, whichever month is looked at. */
export async function calendarView(month: number): Promise<CalendarView> {
  const [bench, subjects, entries] = [await readBench(), await readSubjects(), await listEntries()];
  const own = entries.map(({ uid, what, startsAt, endsAt, quiet }) => ({
    uid,
    what,
    from: startsAt,
    to: endsAt,
    quiet: quiet === 'yes',
  }));
  const handsets = subjects.map((subject) => handsetOf(subject, bench));
  return { month, now: now(), items: itemsOf(subjects, bench, handsets, entries), handsets, own };
}

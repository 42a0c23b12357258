import 'server-only';
import { randomUUID } from 'node:crypto';
import type { CalendarHandset, CalendarItem, CalendarView } from '@/contracts/calendar-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { cadenceOf } from '@/core/schedule/cadence';
import { monthStart, parseMonth } from '@/core/schedule/month';
import type { Waiting, WaitingRule } from '@/core/schedule/waiting-rule';
import { NO_WAITING, waitingOf } from '@/core/schedule/waiting-rule';
import { dropEntry, keepEntries, listEntries } from '../repositories/calendar-repository';
import { listHandsets } from '../repositories/handset-repository';
import { clocksOf } from '../repositories/record-repository';
import { listRounds } from '../repositories/round-repository';
import { readSetting, writeSetting } from '../repositories/setting-repository';
import { needHandset, readBench, readSubject } from './bench-reading';
import { now } from './clock';
import type { Bench, Subject } from './judgements';
import { nextBuild, readinessOf, rootOf } from './judgements';
import { moduleIdsOf } from './module-judgements';
import { openPutBacks } from './put-back-service';

const DAY_MS = 86_400_000;
const ruleKey = (handsetId: string) => `waiting:${handsetId}`;

export async function waitingRuleOf(handsetId: string): Promise<WaitingRule> {
  const kept = await readSetting(ruleKey(handsetId));
  return kept === null ? NO_WAITING : { ...NO_WAITING, ...(JSON.parse(kept) as Partial<WaitingRule>) };
}

export async function saveWaitingRule(handsetId: string, { days, kit, modules }: WaitingRule): Promise<void> {
  await needHandset(handsetId);
  await writeSetting(ruleKey(handsetId), JSON.stringify({ version: 1, days, kit, modules }));
}

/** @throws {EternoError} `bad-field` for one that ends before it begins */
export async function addEntry(what: string, from: number, to: number, quiet: boolean): Promise<void> {
  if (to <= from) throw new EternoError('bad-field', 'It ends before it begins.');
  await keepEntries([{ uid: `${randomUUID()}@eterno`, what, startsAt: from, endsAt: to, quiet: quiet ? 'yes' : 'no', at: now() }]);
}
export const removeEntry = dropEntry;

const ownBuilds = ({ facts }: Subject, { builds }: Bench) => {
  const product = facts.typed.fingerprint === null ? undefined : splitFingerprint(facts.typed.fingerprint)?.product;
  return builds.filter((build) => build.product === product);
};

/** Days from out to installed, for the builds that a round here ended on. */
function followed(subject: Subject, bench: Bench, rounds: Awaited<ReturnType<typeof listRounds>>): number[] {
  return rounds.flatMap((round) => {
    if (round.handsetId !== subject.handset.id || round.state !== 'closed' || round.closedAt === null) return [];
    const build = bench.builds.find((one) => one.fingerprint === round.target);
    return build && round.closedAt > build.publishedAt ? [(round.closedAt - build.publishedAt) / DAY_MS] : [];
  });
}

type Quiet = { readonly from: number; readonly to: number; readonly what: string };

export const quietStretches = async (): Promise<readonly Quiet[]> =>
  (await listEntries()).filter((entry) => entry.quiet === 'yes').map(({ what, startsAt, endsAt }) => ({ what, from: startsAt, to: endsAt }));

/** Whether a handset's next build still waits, by the person's own rule; null where no newer build is known. */
export async function waitOf(subject: Subject, bench: Bench, quiet: readonly Quiet[]): Promise<Waiting | null> {
  const next = nextBuild(subject, bench);
  if (!next) return null;
  const ids = moduleIdsOf(subject);
  const worked = bench.moduleTrials.filter((one) => one.fingerprint === next.fingerprint && one.outcome === 'worked' && ids.includes(one.module));
  return waitingOf(await waitingRuleOf(subject.handset.id), {
    buildId: next.buildId,
    publishedAt: next.publishedAt,
    kitKnown: bench.trials.some((trial) => trial.shelf === 'kit' && trial.fingerprint === next.fingerprint && trial.outcome === 'worked'),
    modulesKnown: new Set(worked.map((one) => one.module)).size,
    modules: ids.length,
    quiet,
    now: now(),
  });
}

async function handsetOf(
  subject: Subject,
  bench: Bench,
  rounds: Awaited<ReturnType<typeof listRounds>>,
  quiet: readonly Quiet[],
): Promise<CalendarHandset> {
  const { handset, facts } = subject;
  const next = nextBuild(subject, bench);
  const rule = await waitingRuleOf(handset.id);
  return {
    id: handset.id,
    name: handset.name,
    build: facts.typed.buildId,
    waiting: next && { buildId: next.buildId, at: next.publishedAt },
    daysBehind: next ? Math.max(0, Math.floor((now() - next.publishedAt) / DAY_MS)) : 0,
    cadence: cadenceOf(
      ownBuilds(subject, bench).map((build) => build.publishedAt),
      followed(subject, bench, rounds),
      now(),
    ),
    rule,
    wait: await waitOf(subject, bench, quiet),
    readiness: readinessOf(subject, bench, rootOf(subject, bench)),
    putBacks: (await openPutBacks(handset.id)).map(({ what }) => what),
    clocks: (await clocksOf(handset.id))
      .filter((clock) => clock.doneAt === null)
      .map(({ kind, endsAt, note }) => ({ what: note === '' ? kind : `${kind}: ${note}`, endsAt })),
  };
}

async function itemsOf(
  subjects: readonly Subject[],
  bench: Bench,
  rounds: Awaited<ReturnType<typeof listRounds>>,
  handsets: readonly CalendarHandset[],
): Promise<CalendarItem[]> {
  const items: CalendarItem[] = [];
  const day = (at: number) => Math.floor(at / DAY_MS) * DAY_MS;
  for (const handset of handsets) {
    const about = { id: handset.id, name: handset.name };
    const subject = subjects.find((one) => one.handset.id === handset.id)!;
    const add = (uid: string, kind: CalendarItem['kind'], what: string, from: number, to: number, allDay: boolean) =>
      items.push({ uid: `${uid}@eterno`, kind, what, from, to, allDay, handset: about });
    for (const build of ownBuilds(subject, bench))
      add(
        `out-${handset.id}-${build.buildId}`,
        'out',
        `${build.buildId} is out for ${handset.name}`,
        day(build.publishedAt),
        day(build.publishedAt) + DAY_MS,
        true,
      );
    const { next } = handset.cadence;
    if (next)
      add(
        `expected-${handset.id}`,
        'expected',
        `A build for ${handset.name} is to be expected`,
        day(next.from),
        Math.max(day(next.to), day(next.from)) + DAY_MS,
        true,
      );
    for (const [i, clock] of handset.clocks.entries())
      add(`clock-${handset.id}-${i}-${clock.endsAt}`, 'clock', `${handset.name}: ${clock.what}`, clock.endsAt, clock.endsAt + 15 * 60_000, false);
    for (const [i, what] of handset.putBacks.entries())
      add(`putback-${handset.id}-${i}`, 'put back', `${handset.name}: put back: ${what}`, day(now()), day(now()) + DAY_MS, true);
    if (handset.wait?.until)
      add(
        `wait-${handset.id}-${handset.waiting!.buildId}`,
        'waiting ends',
        `${handset.name}: ${handset.waiting!.buildId} has waited long enough`,
        handset.wait.until,
        handset.wait.until + 15 * 60_000,
        false,
      );
    for (const round of rounds.filter((one) => one.handsetId === handset.id))
      add(
        `round-${round.id}`,
        'round',
        `${round.title}, ${handset.name}`,
        round.openedAt,
        Math.max(round.closedAt ?? now(), round.openedAt + 60_000),
        false,
      );
  }
  for (const entry of await listEntries())
    items.push({
      uid: entry.uid,
      kind: entry.quiet === 'yes' ? 'quiet' : 'own',
      what: entry.what,
      from: entry.startsAt,
      to: entry.endsAt,
      allDay: entry.startsAt % DAY_MS === 0 && entry.endsAt % DAY_MS === 0,
      handset: null,
    });
  return items.sort((a, b) => a.from - b.from || (a.uid < b.uid ? -1 : 1));
}

/** @param text `YYYY-MM`; this month for anything else */
export const calendarOfMonth = (text: string | undefined) => calendarView(parseMonth(text) ?? monthStart(now()));

/** Everything with a day to it; the whole of it, whichever month is looked at. */
export async function calendarView(month: number): Promise<CalendarView> {
  const bench = await readBench();
  const rounds = await listRounds();
  const own = (await listEntries()).map(({ uid, what, startsAt, endsAt, quiet }) => ({
    uid,
    what,
    from: startsAt,
    to: endsAt,
    quiet: quiet === 'yes',
  }));
  const quiet = await quietStretches();
  const subjects: Subject[] = [];
  for (const handset of await listHandsets()) subjects.push(await readSubject(handset));
  const handsets: CalendarHandset[] = [];
  for (const subject of subjects) handsets.push(await handsetOf(subject, bench, rounds, quiet));
  return { month, now: now(), items: await itemsOf(subjects, bench, rounds, handsets), handsets, own };
}

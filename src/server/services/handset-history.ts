import 'server-only';
import { cache } from 'react';
import { MODEL_FACTS } from '@/core/facts/catalogue';
import type { FactReport } from '@/core/facts/resolve-facts';
import type { RoundStep } from '@/core/rounds/round';
import { CHANGING } from '@/core/steps/deeds';
import type { RootChange } from '@/core/schedule/continuity';
import type { WaitingRule } from '@/core/schedule/waiting-rule';
import { NO_WAITING } from '@/core/schedule/waiting-rule';
import type { FactChoiceRow, FactRow, PutBackRow, SlotContentRow } from '../db/models';
import type { ClockRow } from '../db/record-rows';
import { eventsOf } from '../repositories/event-repository';
import {
  factChoicesOf,
  newestFacts,
  newestOf,
  patchLevelsRun,
  slotHistoryOf,
} from '../repositories/handset-repository';
import { clocksOf } from '../repositories/record-repository';
import type { RoundHead } from '../repositories/round-repository';
import { begunSteps, listRoundHeads, stepsOf } from '../repositories/round-repository';
import { putBacksOf, settingsLike } from '../repositories/setting-repository';
import { changeOf } from './root-history';

/** All that was ever kept of a handset, as its judgements need it. */
export interface HandsetHistory {
  /** The newest report of each witness on each fact. */
  readonly reports: readonly FactReport[];
  /** The newest patch level that the handset itself ever told. */
  readonly dataPatchLevel: string | null;
  readonly choices: readonly Readonly<FactChoiceRow>[];
  /** Oldest first. */
  readonly rootChanges: readonly RootChange[];
  /** When something was done after which a handset says other things than before, oldest first. */
  readonly doneAt: readonly number[];
  /** Newest first. */
  readonly rounds: readonly RoundHead[];
  /** Oldest first. */
  readonly slots: readonly Readonly<SlotContentRow>[];
  readonly openPutBacks: readonly Readonly<PutBackRow>[];
  readonly openClocks: readonly Readonly<ClockRow>[];
  /** The steps of its open round, in their order. */
  readonly openSteps: readonly RoundStep[];
  readonly waitingRule: WaitingRule;
}

const WAITING = 'waiting:';
export const waitingKey = (handsetId: string) => `${WAITING}${handsetId}`;

function byHandset<T extends { readonly handsetId: string | null }>(
  rows: readonly T[],
): (id: string) => readonly T[] {
  const groups = new Map<string | null, T[]>();
  for (const row of rows) {
    const group = groups.get(row.handsetId);
    if (group) group.push(row);
    else groups.set(row.handsetId, [row]);
  }
  return (id) => groups.get(id) ?? [];
}

/**
 * What nobody said of a handset and somebody did of another of its code name. A handset that is never unlocked
 * may be so by its carrier alone: that says nothing of others.
 */
function withModel(
  own: (id: string) => readonly FactReport[],
  told: readonly Readonly<FactRow>[],
): (id: string) => readonly FactReport[] {
  const deviceOf = new Map(
    told.flatMap(({ key, handsetId, value }) => (key === 'device' ? [[handsetId, value]] : [])),
  );
  return (id) => {
    const mine = own(id);
    const device = deviceOf.get(id);
    const missing = MODEL_FACTS.filter((key) => !mine.some((one) => one.key === key));
    const borrowed = missing.flatMap((key) => {
      const one = told.find(
        (row) =>
          row.key === key &&
          row.handsetId !== id &&
          deviceOf.get(row.handsetId) === device &&
          !(key === 'unlockPath' && row.value === 'none'),
      );
      return one ? [{ ...one, source: 'model' as const }] : [];
    });
    return device === undefined || borrowed.length === 0 ? mine : [...mine, ...borrowed];
  };
}

/**
 * One query a table, whether one handset is asked for or all of them.
 * @returns what was kept of a handset, by its id
 */
async function readHistories(handsetId?: string): Promise<(id: string) => HandsetHistory> {
  const rounds = await listRoundHeads(handsetId);
  const handsetOf = new Map(rounds.map((round) => [round.id, round.handsetId]));
  const begun = (await begunSteps(CHANGING, handsetId === undefined ? null : rounds.map(({ id }) => id))).map(
    (step) => ({
      handsetId: handsetOf.get(step.roundId) ?? null,
      at: step.startedAt,
    }),
  );
  const of = handsetId === undefined ? {} : { handsetId };
  const open = rounds.filter((round) => round.state === 'open').map(({ id }) => id);
  const rules = new Map(
    (await settingsLike(waitingKey(handsetId ?? ''))).map(({ key, value }) => [key, value]),
  );
  const tables = {
    openSteps: byHandset(
      (await stepsOf(open)).map((step) => ({ ...step, handsetId: handsetOf.get(step.roundId) ?? null })),
    ),
    reports: withModel(byHandset(await newestFacts(handsetId)), await newestOf(['device', ...MODEL_FACTS])),
    levels: byHandset(await patchLevelsRun(handsetId)),
    choices: byHandset(await factChoicesOf(handsetId)),
    roots: byHandset(await eventsOf('root', of)),
    done: byHandset([...begun, ...(await eventsOf('slip', of))]),
    rounds: byHandset(rounds),
    slots: byHandset(await slotHistoryOf(handsetId)),
    putBacks: byHandset(await putBacksOf(handsetId)),
    clocks: byHandset(await clocksOf(handsetId)),
  };
  return (id) => ({
    reports: tables.reports(id),
    dataPatchLevel: tables.levels(id)[0]?.newest ?? null,
    choices: tables.choices(id),
    rootChanges: tables.roots(id).map(changeOf),
    doneAt: tables
      .done(id)
      .map(({ at }) => at)
      .sort((a, b) => a - b),
    rounds: tables.rounds(id),
    slots: tables.slots(id),
    openPutBacks: tables.putBacks(id).filter((row) => row.closedAt === null),
    openClocks: tables.clocks(id).filter((row) => row.doneAt === null),
    openSteps: tables.openSteps(id),
    waitingRule: readRule(rules.get(waitingKey(id))),
  });
}

function readRule(kept: string | undefined): WaitingRule {
  return kept === undefined ? NO_WAITING : { ...NO_WAITING, ...(JSON.parse(kept) as Partial<WaitingRule>) };
}

export async function historyOf(handsetId: string): Promise<HandsetHistory> {
  return (await readHistories(handsetId))(handsetId);
}

/** Of every handset; the frame and the room of one page share what was read. */
export const historiesOfAll = cache(() => readHistories());

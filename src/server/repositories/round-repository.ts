import 'server-only';
import { randomUUID } from 'node:crypto';
import { EternoError } from '@/core/errors';
import type { DecidedStep, Decision, RoundEvent } from '@/core/rounds/decision';
import type { AppSeen, Round, RoundStep } from '@/core/rounds/round';
import type { Transaction } from 'sequelize';
import { Op, UniqueConstraintError } from 'sequelize';
import { database, inTransaction } from '../db/connection';
import type { KeptStep } from '../db/decode';
import { decodeRound, decodeStep, stepColumns } from '../db/decode';
import type { Models, ModuleTrialRow, RoundRow, StepRow } from '../db/models';
import type { TrialRow } from '../db/record-rows';
import { keepSecretIn } from './handset-repository';
import { ofHandset, plain, rowsOf } from './rows';

export async function listRounds(handsetId?: string): Promise<Round[]> {
  const { models } = await database();
  return (
    await rowsOf<RoundRow>(models.Round, { where: ofHandset(handsetId), order: [['openedAt', 'DESC']] })
  ).map(decodeRound);
}

/** A round without what was planned in it. */
export type RoundHead = Pick<
  Round,
  'id' | 'handsetId' | 'kind' | 'title' | 'target' | 'state' | 'openedAt' | 'closedAt'
>;

/** Newest first; of all handsets where none is named. */
export async function listRoundHeads(handsetId?: string): Promise<RoundHead[]> {
  const { models } = await database();
  return rowsOf<RoundHead>(models.Round as never, {
    attributes: ['id', 'handsetId', 'kind', 'title', 'target', 'state', 'openedAt', 'closedAt'],
    where: ofHandset(handsetId),
    order: [['openedAt', 'DESC']],
  });
}

/** When steps of these kinds were begun. @param roundIds null for all rounds */
export async function begunSteps(
  keys: readonly string[],
  roundIds: readonly string[] | null,
): Promise<readonly { readonly roundId: string; readonly startedAt: number }[]> {
  const { models } = await database();
  return rowsOf<{ roundId: string; startedAt: number }>(models.Step as never, {
    attributes: ['roundId', 'startedAt'],
    where: {
      ...(roundIds === null ? {} : { roundId: { [Op.in]: [...roundIds] } }),
      key: { [Op.in]: [...keys] },
      startedAt: { [Op.ne]: null },
    } as never,
  });
}

export async function findRound(id: string): Promise<Round | null> {
  const { models } = await database();
  const found = await models.Round.findByPk(id);
  return found ? decodeRound(plain<RoundRow>(found)) : null;
}

export async function openRoundOf(handsetId: string): Promise<Round | null> {
  const { models } = await database();
  const found = await models.Round.findOne({ where: { handsetId, state: 'open' } });
  return found ? decodeRound(plain<RoundRow>(found)) : null;
}

export async function stepsOf(roundIds: readonly string[]): Promise<KeptStep[]> {
  const { models } = await database();
  const rows = await rowsOf<StepRow>(models.Step, {
    where: { roundId: { [Op.in]: [...roundIds] } },
    order: [['position', 'ASC']],
  });
  return rows.flatMap((row) => decodeStep(row) ?? []);
}

/** A round that is about to be opened. */
export type NewRound = Omit<Round, 'id' | 'again' | 'againNote' | 'reached'> &
  Partial<Pick<Round, 'again' | 'againNote' | 'reached'>>;

/**
 * Opens a round with its steps and the log's line of it, all or nothing.
 * @throws {EternoError} `conflict` where one of this handset is open already
 */
export async function insertRound(
  { plan, overrides, ...row }: NewRound,
  steps: readonly Omit<RoundStep, 'id'>[],
  events: readonly RoundEvent[] = [],
): Promise<Round> {
  return inTransaction(async (transaction, models) => {
    const id = randomUUID();
    const columns: RoundRow = {
      id,
      reached: null,
      again: null,
      againNote: null,
      ...row,
      plan: JSON.stringify(plan),
      overrides: JSON.stringify(overrides),
    };
    const round = await models.Round.create(columns, { transaction }).catch((thrown: unknown) => {
      if (thrown instanceof UniqueConstraintError)
        throw new EternoError('conflict', 'a round of this handset is open already', { cause: thrown });
      throw thrown;
    });
    await models.Step.bulkCreate(
      steps.map((step, position) => ({ id: randomUUID(), roundId: id, position, ...stepColumns(step) })),
      { transaction },
    );
    await insertEvents(models, transaction, events, {
      at: row.openedAt,
      handsetId: row.handsetId,
      roundId: id,
    });
    return decodeRound(plain<RoundRow>(round));
  });
}

interface Whose {
  readonly at: number;
  readonly handsetId: string;
  readonly roundId: string;
}

async function insertEvents(
  models: Models,
  transaction: Transaction,
  events: readonly RoundEvent[],
  whose: Whose,
): Promise<void> {
  // one after the other: the log's order is that of its rows
  for (const { kind, data } of events)
    await models.Event.create({ ...whose, kind, data: JSON.stringify({ version: 1, ...data }) } as never, {
      transaction,
    });
}

/** What of a decision is about other shelves than the round's own, filled in by whoever carries it out. */
export interface Apply {
  readonly id: string;
  readonly handsetId: string;
  /** The version that the decision was made at. */
  readonly version: number;
  readonly now: number;
  readonly steps: readonly RoundStep[];
  readonly decision: Decision;
  readonly trials: readonly Omit<TrialRow, 'id'>[];
  readonly moduleTrials: readonly Omit<ModuleTrialRow, 'id'>[];
}

/**
 * Keeps everything that a decision came to, in one transaction: the round and its steps, the log, the slot
 * map, temporary changes, trials, backups and private values. A kill at any moment leaves the store before it
 * or after it.
 * @returns the version afterwards
 * @throws {EternoError} `conflict` when another tab or process was faster
 */
export async function applyDecision({
  id,
  handsetId,
  version,
  now,
  steps,
  decision,
  trials,
  moduleTrials,
}: Apply): Promise<number> {
  const { plan, overrides, ...change } = decision.round;
  const columns = {
    ...change,
    ...(plan === undefined ? {} : { plan: JSON.stringify(plan) }),
    ...(overrides === undefined ? {} : { overrides: JSON.stringify(overrides) }),
  };
  const counts = decision.steps !== null || Object.keys(columns).length > 0;
  return inTransaction(async (transaction, models) => {
    if (counts) {
      const [count] = await models.Round.update(
        { ...columns, version: version + 1 },
        { where: { id, version }, transaction },
      );
      if (count !== 1) throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
    }
    if (decision.steps) await saveSteps(models, transaction, id, steps, decision.steps);
    await insertEvents(models, transaction, decision.events, { at: now, handsetId, roundId: id });
    await savePutBacks(models, transaction, decision, { id, handsetId, now });
    await saveSeen(models, transaction, decision, { handsetId, now, trials, moduleTrials });
    for (const { name, value } of decision.secrets)
      await keepSecretIn(models, transaction, handsetId, name, value);
    return counts ? version + 1 : version;
  });
}

/** Temporary changes that the decision ends and begins. */
async function savePutBacks(
  models: Models,
  transaction: Transaction,
  { putBacks }: Apply['decision'],
  { id, handsetId, now }: Pick<Apply, 'id' | 'handsetId' | 'now'>,
): Promise<void> {
  for (const { id: row, how } of putBacks.close)
    await models.PutBack.update({ closedAt: now, closedBy: how }, { where: { id: row }, transaction });
  await models.PutBack.bulkCreate(
    putBacks.open.map((one) => ({
      id: randomUUID(),
      handsetId,
      roundId: id,
      ...one,
      openedAt: now,
      closedAt: null,
      closedBy: null,
    })),
    { transaction },
  );
}

/** What lies on the slots, how kits, modules and apps did, and backups. */
async function saveSeen(
  models: Models,
  transaction: Transaction,
  { slots, backups, apps }: Apply['decision'],
  { handsetId, now, trials, moduleTrials }: Pick<Apply, 'handsetId' | 'now' | 'trials' | 'moduleTrials'>,
): Promise<void> {
  await models.SlotContent.bulkCreate(
    slots.map(({ slot, ...report }) => ({
      id: randomUUID(),
      handsetId,
      slot: slot ?? '-',
      at: now,
      ...report,
    })),
    { transaction },
  );
  await models.Trial.bulkCreate(
    trials.map((row) => ({ id: randomUUID(), ...row })),
    { transaction },
  );
  await models.ModuleTrial.bulkCreate(
    moduleTrials.map((row) => ({ id: randomUUID(), ...row })),
    { transaction },
  );
  await models.Backup.bulkCreate(
    backups.map(({ what, note, parts }) => ({
      id: randomUUID(),
      handsetId,
      what,
      place: 'off the handset' as const,
      note,
      at: now,
      parts: JSON.stringify(parts),
    })),
    { transaction },
  );
  for (const { name, how } of apps) await saveApp(models, transaction, { handsetId, now, name, how });
}

/** Whether it is needed stays as it was said; of one that is new nobody said so. */
async function saveApp(
  models: Models,
  transaction: Transaction,
  { handsetId, now, name, how }: Pick<Apply, 'handsetId' | 'now'> & AppSeen,
): Promise<void> {
  const effect = how === 'works' ? ('keeps working' as const) : ('stops' as const);
  const [count] = await models.Dependency.update(
    { effect, at: now },
    { where: { handsetId, name }, transaction },
  );
  if (count > 0) return;
  const row = { id: randomUUID(), handsetId, name, effect, needed: 'no' as const, note: '', at: now };
  await models.Dependency.create(row, { transaction });
}

/**
 * Changed steps are changed, new ones added, missing ones taken out; each stands where it stands in `after`.
 */
async function saveSteps(
  models: Models,
  transaction: Transaction,
  roundId: string,
  before: readonly RoundStep[],
  after: readonly DecidedStep[],
): Promise<void> {
  const kept = after.flatMap(({ id }) => id ?? []);
  await models.Step.destroy({
    where: { roundId, id: { [Op.in]: before.map(({ id }) => id).filter((id) => !kept.includes(id)) } },
    transaction,
  });
  for (const [position, step] of after.entries()) {
    const { id, ...columns } = step;
    if (id === null)
      await models.Step.create(
        { id: randomUUID(), roundId, position, ...stepColumns(columns) },
        { transaction },
      );
    else if (step !== before[position])
      await models.Step.update({ position, ...stepColumns(columns) }, { where: { id }, transaction });
  }
}

/** Steps that say they are running; at the start of the server nothing can be. */
export async function runningSteps(): Promise<KeptStep[]> {
  const { models } = await database();
  return (await rowsOf<StepRow>(models.Step, { where: { state: 'running' } })).flatMap(
    (row) => decodeStep(row) ?? [],
  );
}

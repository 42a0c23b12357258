import 'server-only';
import { randomUUID } from 'node:crypto';
import { EternoError } from '@/core/errors';
import { Op, UniqueConstraintError } from 'sequelize';
import { database, inTransaction } from '../db/connection';
import type { RoundRow, StepRow } from '../db/models';
import { ofHandset, plain, rowsOf } from './rows';

export async function listRounds(handsetId?: string): Promise<Readonly<RoundRow>[]> {
  const { models } = await database();
  return rowsOf<RoundRow>(models.Round, { where: ofHandset(handsetId), order: [['openedAt', 'DESC']] });
}

/** A round without what was planned in it. */
export type RoundHead = Readonly<Pick<RoundRow, 'id' | 'handsetId' | 'kind' | 'title' | 'target' | 'state' | 'openedAt' | 'closedAt'>>;

/** Newest first; of all handsets where none is named. */
export async function listRoundHeads(handsetId?: string): Promise<RoundHead[]> {
  const { models } = await database();
  return rowsOf<RoundRow>(models.Round, {
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

export async function findRound(id: string): Promise<Readonly<RoundRow> | null> {
  const { models } = await database();
  const found = await models.Round.findByPk(id);
  return found ? plain<RoundRow>(found) : null;
}

export async function openRoundOf(handsetId: string): Promise<Readonly<RoundRow> | null> {
  const { models } = await database();
  const found = await models.Round.findOne({ where: { handsetId, state: 'open' } });
  return found ? plain<RoundRow>(found) : null;
}

export async function stepsOf(roundIds: readonly string[]): Promise<Readonly<StepRow>[]> {
  const { models } = await database();
  return rowsOf<StepRow>(models.Step, { where: { roundId: { [Op.in]: [...roundIds] } }, order: [['position', 'ASC']] });
}

/** Opens a round with its steps. @throws {EternoError} `conflict` where one of this handset is open already */
export async function insertRound(
  row: Omit<RoundRow, 'id' | 'again' | 'againNote'> & Partial<Pick<RoundRow, 'again' | 'againNote'>>,
  steps: readonly Omit<StepRow, 'id' | 'roundId' | 'position'>[],
): Promise<Readonly<RoundRow>> {
  return inTransaction(async (transaction, models) => {
    const round = await models.Round.create({ id: randomUUID(), again: null, againNote: null, ...row }, { transaction }).catch((thrown: unknown) => {
      if (thrown instanceof UniqueConstraintError) throw new EternoError('conflict', 'a round of this handset is open already', { cause: thrown });
      throw thrown;
    });
    const { id } = plain<RoundRow>(round);
    await models.Step.bulkCreate(
      steps.map((step, position) => ({ id: randomUUID(), roundId: id, position, ...step })),
      { transaction },
    );
    return plain<RoundRow>(round);
  });
}

/**
 * Changes a round and its steps together, only if nobody else did since `version` was read.
 * @throws {EternoError} `conflict` when another tab or process was faster
 */
export async function changeRound(
  id: string,
  version: number,
  change: Partial<Pick<RoundRow, 'state' | 'closedAt' | 'overrides' | 'again' | 'againNote'>>,
  steps: readonly { id: string; change: Partial<StepRow> }[] = [],
): Promise<void> {
  await inTransaction(async (transaction, models) => {
    const [count] = await models.Round.update({ ...change, version: version + 1 }, { where: { id, version }, transaction });
    if (count !== 1) throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
    for (const step of steps) await models.Step.update(step.change, { where: { id: step.id }, transaction });
  });
}

/** Steps that say they are running; at the start of the server nothing can be. */
export async function runningSteps(): Promise<Readonly<StepRow>[]> {
  const { models } = await database();
  return rowsOf<StepRow>(models.Step, { where: { state: 'running' } });
}

/**
 * A round goes on with other steps: those of `keep` stay in their order, all others go, the new ones follow.
 * @throws {EternoError} `conflict`
 */
export async function replaceSteps(
  id: string,
  version: number,
  change: Partial<Pick<RoundRow, 'lane' | 'plan' | 'target'>>,
  keep: readonly string[],
  steps: readonly Omit<StepRow, 'id' | 'roundId' | 'position'>[],
): Promise<void> {
  await inTransaction(async (transaction, models) => {
    const [count] = await models.Round.update({ ...change, version: version + 1 }, { where: { id, version }, transaction });
    if (count !== 1) throw new EternoError('conflict', 'this round was changed somewhere else meanwhile');
    await models.Step.destroy({ where: { roundId: id, id: { [Op.notIn]: [...keep] } }, transaction });
    for (const [position, stepId] of keep.entries()) await models.Step.update({ position }, { where: { id: stepId }, transaction });
    await models.Step.bulkCreate(
      steps.map((step, i) => ({ id: randomUUID(), roundId: id, position: keep.length + i, ...step })),
      { transaction },
    );
  });
}

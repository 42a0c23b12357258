import 'server-only';
import { randomUUID } from 'node:crypto';
import { database } from '../db/connection';
import type { ModuleRow, ModuleTrialRow, StepNoteRow } from '../db/models';
import type { KeptModule } from '@/core/bench/bench';
import { decodeModule, moduleColumns } from '../db/decode';
import { rowsOf } from './rows';

/* The shelf of modules, how each did on which build, and what was noted at steps. */

export async function listModules(): Promise<KeptModule[]> {
  const { models } = await database();
  const rows = await rowsOf<ModuleRow>(models.Module, {
    order: [
      ['moduleId', 'ASC'],
      ['addedAt', 'DESC'],
    ],
  });
  return rows.map(decodeModule);
}

export async function recordModule(module: KeptModule): Promise<void> {
  const { models } = await database();
  await models.Module.upsert(moduleColumns(module));
}

export async function listModuleTrials(): Promise<Readonly<ModuleTrialRow>[]> {
  const { models } = await database();
  return rowsOf<ModuleTrialRow>(models.ModuleTrial, { order: [['at', 'DESC']] });
}

export async function insertModuleTrials(rows: readonly Omit<ModuleTrialRow, 'id'>[]): Promise<void> {
  const { models } = await database();
  await models.ModuleTrial.bulkCreate(rows.map((row) => ({ id: randomUUID(), ...row })));
}

export async function listNotes(): Promise<Readonly<StepNoteRow>[]> {
  const { models } = await database();
  return rowsOf<StepNoteRow>(models.StepNote, { order: [['at', 'ASC']] });
}

export async function insertNote(row: Omit<StepNoteRow, 'id'>): Promise<void> {
  const { models } = await database();
  await models.StepNote.create({ id: randomUUID(), ...row });
}

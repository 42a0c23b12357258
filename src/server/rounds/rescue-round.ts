import 'server-only';
import { NOT_STARTING } from '@/core/rescue/causes';
import { REPAIR_GOALS } from '@/core/rescue/repairs';
import type { RepairId, SymptomId } from '@/core/words/rescue';
import * as say from '@/core/words/step-evidence';
import { needHandset } from '../services/bench-reading';
import { tellRoot } from '../services/root-history';
import { openRound } from './open-rounds';
import { saidNotToStart } from './said-state';

/**
 * From a case to its round: what shows counts as said, and the plan begins from there.
 * @returns the page to go on at: the round that begins or is open, else the ways to what the repair is about
 * @throws {EternoError} `not-found`, and of `saidNotToStart`
 */
export async function beginRepair(
  handsetId: string,
  repair: RepairId,
  symptoms: readonly SymptomId[],
): Promise<string> {
  await needHandset(handsetId);
  const fails = symptoms.some((symptom) => NOT_STARTING.includes(symptom));
  if (fails && repair === 'stock-image') return `/rounds/${await saidNotToStart(handsetId)}`;
  const open = await openRound(handsetId);
  if (fails) await tellRoot(handsetId, open?.id ?? null, 'broken', say.DOES_NOT_START);
  const goal = REPAIR_GOALS[repair] ?? 'repair';
  return open === null
    ? `/rounds/new?handset=${handsetId}&goal=${encodeURIComponent(goal)}`
    : `/rounds/${open.id}`;
}

import { array, number, object, string } from 'yup';
import { CLASS_IDS } from '@/core/ways/classes';
import type { CauseId, RepairId, SymptomId } from '@/core/words/rescue';
import { CAUSE_WORDS, REPAIR_WORDS, SYMPTOM_WORDS } from '@/core/words/rescue';

/* Shapes of what a browser sends about a handset in trouble. */

export const rescueQuerySchema = object({
  handset: string().uuid(),
  /** A class, for one that was never here. */
  like: string().oneOf(CLASS_IDS),
});

const SYMPTOMS = Object.keys(SYMPTOM_WORDS) as SymptomId[];
const REPAIRS = Object.keys(REPAIR_WORDS) as RepairId[];

export const beginRepairSchema = object({
  handsetId: string().uuid().required(),
  repair: string().oneOf(REPAIRS).required(),
  symptoms: array(string().oneOf(SYMPTOMS).required()).min(1).max(SYMPTOMS.length).required(),
});

export const closeCaseSchema = object({
  handsetId: string().uuid().nullable().defined(),
  symptoms: array(string().oneOf(SYMPTOMS).required()).min(1).max(SYMPTOMS.length).required(),
  checks: number().integer().min(0).max(100).required(),
  tried: array(string().oneOf(REPAIRS).required()).max(REPAIRS.length).required(),
  repair: string().oneOf(REPAIRS).nullable().defined(),
  cause: string()
    .oneOf(Object.keys(CAUSE_WORDS) as CauseId[])
    .nullable()
    .defined(),
});

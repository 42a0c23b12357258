import { boolean, mixed, number, object, string } from 'yup';
import type { Pace, SceneKind } from '@/core/practice/scene';
import { PACES, SCENE_KINDS } from '@/core/practice/scene';
import type { Occasion, Odds } from '@/core/practice/surprises';
import { OCCASIONS } from '@/core/practice/surprises';
import { LIMIT_FIELDS } from './ways-query';

/* What the Practice room sends. */

export const sceneSchema = object({
  kind: string<SceneKind>().oneOf(SCENE_KINDS).required(),
  work: number().integer().min(1).max(99).nullable().defined(),
  seed: number().integer().min(0).required(),
  pace: number<Pace>().oneOf(PACES).required(),
  slip: string<Occasion>().oneOf(OCCASIONS).nullable().defined(),
  odds: mixed<Odds>().nullable().defined(),
});
export const openSchema = object({
  scene: sceneSchema.required(),
  handsetId: string().uuid().nullable().defined(),
});
/** The way that was practised, in the address; nothing where none was. */
export const sameWaySchema = object({
  ...LIMIT_FIELDS,
  goal: string().max(40),
  limit: string().max(10),
  lane: string().max(60),
  /** A handset of one's own that is to be copied. */
  copy: string().uuid(),
});
export const weighSchema = object({ on: boolean().required() });

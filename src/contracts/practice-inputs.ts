import { boolean, number, object, string } from 'yup';
import { MOST_SCENE_BYTES } from '@/core/practice/scene';
import { LIMIT_FIELDS } from './ways-query';

/* What the Practice room sends. */

export const sceneSchema = object({
  kind: string<'work' | 'trouble'>().oneOf(['work', 'trouble']).required(),
  work: number().integer().min(1).max(99).required(),
  seed: number().integer().min(0).required(),
  pace: number<1 | 5 | 20>().oneOf([1, 5, 20]).required(),
});
export const sceneFileSchema = object({ text: string().max(MOST_SCENE_BYTES).required() });
/** The way that was practised, in the address; nothing where none was. */
export const sameWaySchema = object({
  ...LIMIT_FIELDS,
  goal: string().max(40),
  limit: string().max(10),
  lane: string().max(60),
});
export const weighSchema = object({ on: boolean().required() });

import { mixed, object, string } from 'yup';
import { WAY_IDS } from '@/core/ways/way-kinds';

/* What a person says of a model's own ways; the value itself is held against its kind (`core/ways/read-way.ts`). */

const handsetId = string().uuid().required();
const way = string().oneOf(WAY_IDS).required();
export const forgetWaySchema = object({ handsetId, way });
export const sayWaySchema = object({
  handsetId,
  way,
  value: mixed<object | string>().required('Say how it is.'),
  sureness: string()
    .oneOf(['seen done', 'only said'] as const)
    .required(),
  where: string().trim().max(120).default(''),
  /** Who says so, and where, of what was not seen. */
  note: string().trim().max(200).default(''),
});

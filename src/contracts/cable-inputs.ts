import { boolean, lazy, mixed, number, object, string } from 'yup';
import { ERROR_CODES } from '@/core/errors';

/* What a page sends that holds a handset's cable. */

const id = string().uuid().required();
const bytes = number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required();
/** An order answers with the lines of a bootloader at most. */
const MOST_VALUE = 256 * 1024;

const UNDER_WAY = object({
  order: id,
  is: string<'under way'>().oneOf(['under way']).required(),
  phase: string<'send' | 'write' | 'pieces'>().oneOf(['send', 'write', 'pieces']).required(),
  doneBytes: bytes,
  totalBytes: bytes,
});
const DONE = object({
  order: id,
  is: string<'done'>().oneOf(['done']).required(),
  value: mixed()
    .nullable()
    .test('size', 'is too long', (value) => (JSON.stringify(value) ?? '').length <= MOST_VALUE),
});
const FAILED = object({
  order: id,
  is: string<'failed'>().oneOf(['failed']).required(),
  error: object({
    code: string<(typeof ERROR_CODES)[number]>().oneOf(ERROR_CODES).required(),
    message: string().max(2000).defined(),
    details: object({ reason: string().max(500), sent: number(), of: number() }).default(undefined),
  }).required(),
});
const KINDS = { 'under way': UNDER_WAY, done: DONE, failed: FAILED } as const;

/** @see CableReport */
export const cableReportSchema = lazy((value: unknown) => {
  const is = (value as { is?: unknown } | null)?.is;
  return typeof is === 'string' && Object.hasOwn(KINDS, is) ? KINDS[is as keyof typeof KINDS] : DONE;
});

/** A page that holds, or reports of, a handset's cable. */
export const cablePageSchema = object({ handset: id, page: id });
/** Bytes of an order's image: [from, to). */
export const MOST_CABLE_BYTES = 4 << 20;
export const cableBytesSchema = object({ handset: id, page: id, order: id, from: bytes, to: bytes }).test(
  'range',
  'is no range of at most 4 MiB',
  ({ from, to }) => to > from && to - from <= MOST_CABLE_BYTES,
);
export const cableSwitchSchema = object({ on: boolean().required() });

import { array, boolean, lazy, mixed, number, object, string } from 'yup';
import { EternoError } from '@/core/errors';
import type { HandsetFacts } from '@/core/judge/write-target';

/* What a handset is, as JSON: what `facts` prints, and what only the person or a link can add. */

const text = (most: number) => string().min(1).max(most).nullable();
const fingerprint = text(300);
const count = number().integer().min(0).max(Number.MAX_SAFE_INTEGER).nullable();

const partition = object({
  size: count,
  hasSlot: boolean().nullable(),
  logical: boolean().nullable(),
});

/** Names of partitions, each with what is known of it. */
const partitions = lazy((value: unknown) =>
  object(
    Object.fromEntries(
      Object.keys(typeof value === 'object' && value !== null ? value : {}).map((name) => [name, partition]),
    ),
  ),
);

const slotContent = object({
  build: fingerprint,
  images: mixed<Readonly<Record<string, string>>>()
    .test(
      'images',
      'images names partitions, each with a SHA-256',
      (value) =>
        value === undefined ||
        value === null ||
        (typeof value === 'object' &&
          Object.values(value).every((one) => typeof one === 'string' && /^[0-9a-f]{64}$/i.test(one))),
    )
    .nullable(),
}).noUnknown();

const handsetSchema = object({
  fingerprint,
  device: text(120),
  model: text(200),
  buildId: text(120),
  incrementalVersion: text(120),
  release: text(40),
  sdk: count,
  patchLevel: text(40),
  firstApiLevel: count,
  slotCount: number().oneOf([1, 2]).nullable(),
  currentSlot: string().oneOf(['a', 'b']).nullable(),
  unlocked: boolean().nullable(),
  bootloader: text(120),
  baseband: text(200),
  serial: text(120),
  batteryOk: boolean().nullable(),
  maxDownloadSize: count,
  partitions,
  values: mixed().nullable(),
  unread: array().nullable(),
  slotContents: object({
    a: slotContent.default(undefined).nullable(),
    b: slotContent.default(undefined).nullable(),
  })
    .noUnknown()
    .default(undefined)
    .nullable(),
  snapshot: string().oneOf(['none', 'waiting', 'merging']).nullable(),
  mode: string()
    .oneOf([
      'off',
      'system',
      'bootloader',
      'userspace',
      'download',
      'recovery',
      'sideload',
      'looping',
      'dead',
    ])
    .nullable(),
  batteryPercent: number().min(0).max(100).nullable(),
  batteryAge: number().min(0).nullable(),
  now: string().max(40).nullable(),
  recoveryHome: string().oneOf(['recovery', 'boot', 'vendor_boot']).nullable(),
  fuse: count,
  bootloaderLevel: count,
}).strict();

export type HandsetInput = HandsetFacts & { readonly serial?: string | null };

/** @throws {EternoError} `bad-field` for what is no handset */
export async function parseHandsetInput(value: unknown): Promise<HandsetInput> {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new EternoError('bad-field', 'the handset is one JSON object, as `facts` prints it');
  return handsetSchema.validate(value).catch((thrown: unknown) => {
    throw new EternoError('bad-field', thrown instanceof Error ? thrown.message : 'this is no handset');
  }) as Promise<HandsetInput>;
}

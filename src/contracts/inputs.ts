import { array, mixed, number, object, string } from 'yup';
import type { InferType } from 'yup';
import { LIMITS } from '@/core/limits';
import { FILE_SOURCES } from '@/core/packages/roll-call';

/* Shapes of what a browser sends, checked with the same schema on both sides. */

const id = string().uuid().required();
const sha256 = string()
  .matches(/^[0-9a-f]{64}$/, 'This is no SHA-256.')
  .required();
const printed = string().required('Paste what the handset printed.').max(LIMITS.factsTextBytes, 'That is longer than any handset prints.');

export const addHandsetSchema = object({
  name: string().trim().required('Give the handset a name.').max(60, 'Keep the name under 60 characters.'),
  text: printed,
});

export const pasteFactsSchema = object({ handsetId: id, text: printed });

export const packageNameSchema = object({
  fileName: string().trim().required().max(255),
  sizeBytes: number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required(),
});
export const fileSourceSchema = packageNameSchema.shape({ source: string().oneOf(FILE_SOURCES).required() });
export const fileHashSchema = packageNameSchema.shape({ sha256 });
export const recordPackageSchema = packageNameSchema.shape({
  report: mixed<object>()
    .test(
      'report',
      'This is no report of a package.',
      (value) => typeof value === 'object' && value !== null && JSON.stringify(value).length < 1_000_000,
    )
    .required(),
});

export const roundStepSchema = object({
  roundId: id,
  version: number().integer().min(0).required(),
});

export const handSeenSchema = roundStepSchema.shape({ seen: string().trim().required('Say what you saw.').max(2000) });
export const handPasteSchema = roundStepSchema.shape({ text: printed });
export const writeSchema = roundStepSchema.shape({
  which: string()
    .oneOf(['patched', 'stock'] as const)
    .required(),
});
export const confirmChecksSchema = roundStepSchema.shape({
  overrides: array(object({ checkId: string().required().max(40), reason: string().trim().required('Give the reason for the log.').max(500) }))
    .max(20)
    .required(),
});
export const startRoundSchema = object({ handsetId: id });
export const forceImageSchema = object({
  sha256,
  partition: string()
    .matches(/^[a-z][a-z0-9_]{0,62}$/)
    .required(),
});
export const standInKeySchema = object({
  key: string()
    .oneOf(['power', 'up', 'down'] as const)
    .required(),
  down: mixed<boolean>().oneOf([true, false]).required(),
});

/** Where an image that arrives by `PUT /api/images/SHA` comes from. */
export const imageOriginSchema = object({
  from: string()
    .oneOf(['package', 'patch', 'file'] as const)
    .required(),
  package: string().max(255),
  partition: string().matches(/^[a-z][a-z0-9_]{0,62}$/),
  verified: string().oneOf(['yes', 'no'] as const),
  stock: string().matches(/^[0-9a-f]{64}$/),
  kit: string().matches(/^[0-9a-f]{64}$/),
  avb: string().oneOf(['carry', 'rehash'] as const),
  ramdisk: string().oneOf(['gzip'] as const),
});
export type ImageOriginInput = InferType<typeof imageOriginSchema>;

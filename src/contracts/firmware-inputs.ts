import { object, string } from 'yup';

/* What the Firmware room asks of the vault. */

export const patchedImageSchema = object({
  fingerprint: string().required().max(300),
  partition: string().required().max(60),
});

/** A file of the download page, by the hash that it states. */
export const downloadSchema = object({
  sha256: string()
    .matches(/^[0-9a-f]{64}$/)
    .required(),
});

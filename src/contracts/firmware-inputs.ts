import { object, string } from 'yup';

/* What the Firmware room asks of the vault. */

export const patchedImageSchema = object({
  fingerprint: string().required().max(300),
  partition: string().required().max(60),
});

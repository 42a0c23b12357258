import { mixed, number, object, string } from 'yup';
import { HIDDEN_FAULT_IDS } from '@/core/words/hidden-faults';

/* Shapes of what a browser sends to a stand-in on this machine. */

/** Which stand-in on this machine. */
const standIn = object({
  profile: string()
    .matches(/^[a-z0-9-]{1,40}$/)
    .required(),
});
export const forceImageSchema = standIn.shape({
  sha256: string()
    .matches(/^[0-9a-f]{64}$/)
    .required('This is no SHA-256.'),
  partition: string()
    .matches(/^[a-z][a-z0-9_]{0,62}$/)
    .required(),
});
export const standInKeySchema = standIn.shape({
  key: string()
    .oneOf(['power', 'up', 'down'] as const)
    .required(),
  down: mixed<boolean>().oneOf([true, false]).required(),
});
export const standInCableSchema = standIn.shape({
  connected: mixed<boolean>().oneOf([true, false]).required(),
});
export const standInBatterySchema = standIn.shape({ percent: number().min(0).max(100).required() });
export const standInFaultSchema = standIn.shape({ fault: string().oneOf(HIDDEN_FAULT_IDS).required() });
export const standInOtherCableSchema = standIn;
export const standInDeskSchema = standIn.shape({ text: string().trim().max(2000).required() });
export const standInTouchSchema = standIn.shape({ id: string().max(40).required() });

import { backupParts } from './inputs';
import { array, boolean, number, object, string } from 'yup';
import { BACKUP_KINDS } from '@/core/backups/backup-set';
import { LIMITS } from '@/core/limits';
import { LOOKED_ANSWERS } from '@/core/rounds/command';
import type { OutcomeId } from '@/core/words/outcomes';
import { OUTCOME_WORDS } from '@/core/words/outcomes';

/* Shapes of what a browser sends about a round, checked with the same schema on both sides. */

export const roundStepSchema = object({
  roundId: string().uuid().required(),
  version: number().integer().min(0).required(),
});

const shownText = string().default('').max(LIMITS.factsTextBytes, 'That is longer than any handset prints.');

export const handShownSchema = roundStepSchema.shape({ text: shownText });

/** What a person says of a step, and shows of it. */
export const handAnswerSchema = handShownSchema.shape({
  how: string()
    .oneOf(['as-described', 'otherwise', 'cannot-tell'] as const)
    .required(),
  outcome: string()
    .oneOf(Object.keys(OUTCOME_WORDS) as OutcomeId[])
    .when('how', {
      is: 'otherwise',
      then: (schema) => schema.required('Say what you saw.'),
    }),
  note: string().trim().default('').max(2000),
});

export const closeSchema = roundStepSchema.shape({
  notReached: boolean().default(false),
  carryOver: array(string().uuid().required()).max(100).default([]),
});

export const batchOutcomeSchema = roundStepSchema.shape({
  outcome: string()
    .oneOf(['started', 'looped'] as const)
    .required(),
});

export const confirmChecksSchema = roundStepSchema.shape({
  overrides: array(
    object({
      checkId: string().required().max(40),
      reason: string().trim().required('Give the reason for the log.').max(500),
    }),
  )
    .max(20)
    .required(),
});

export const sideloadSchema = roundStepSchema.shape({
  size: number().integer().min(1).max(LIMITS.sideloadBytes).required(),
  name: string().trim().required().max(255),
});

export const buildPackageSchema = roundStepSchema.shape({
  /** Bytes of the list of files in front of them. */
  head: number()
    .integer()
    .min(2)
    .max(64 * 1024)
    .required(),
});
export const sentFilesSchema = array(
  object({
    name: string().trim().required().max(255),
    size: number().integer().min(1).max(LIMITS.sideloadBytes).required(),
  }).required(),
)
  .min(1)
  .max(LIMITS.packageFiles)
  .required();

export const protectSchema = roundStepSchema.shape({ reason: string().trim().max(500).default('') });

export const backUpSchema = roundStepSchema.shape({
  what: string()
    .oneOf([...BACKUP_KINDS, 'none'] as const)
    .required(),
  parts: backupParts,
  note: string().trim().max(500).default(''),
});

export const tokenSchema = roundStepSchema.shape({
  text: string().max(20_000, 'That is longer than any token.').nullable().default(null),
});
export const codeSchema = roundStepSchema.shape({
  code: string().trim().required('Paste the code.').max(200),
});

export const againSchema = roundStepSchema.shape({
  again: string().oneOf(['yes', 'no']).required(),
  note: string()
    .trim()
    .max(500)
    .default('')
    .when('again', {
      is: 'no',
      then: (note) => note.required('Say what was wrong with it: the next round starts from that.'),
    }),
});

const looked = string().oneOf(LOOKED_ANSWERS).required('Say how it is.');

export const lookAroundSchema = roundStepSchema.shape({
  data: looked,
  calls: looked,
  payments: looked,
  note: string().trim().default('').max(200),
  apps: array(
    object({
      name: string().trim().required('Which app?').max(80),
      how: string()
        .oneOf(['works', 'stopped'] as const)
        .required(),
    }).required(),
  )
    .max(LIMITS.apps)
    .default([]),
});

import { BACKUP_KINDS, BACKUP_PARTS } from '@/core/backups/backup-set';
import type { OptionValues } from '@/core/patch/steps-that-run';
import { LIMIT_FIELDS } from './ways-query';
import { array, mixed, number, object, string, tuple } from 'yup';
import type { InferType } from 'yup';
import { EXPORT_FORM_NAMES, LOG_PAGE, LOG_STATES } from './log-view';
import { LIMITS } from '@/core/limits';
import { CAUTIONS, LIMIT_RANGE } from '@/core/modules/switch-off';
import { MOST_DAYS } from '@/core/schedule/waiting-rule';
import type { GoalId } from '@/core/planning/context';
import { GOAL_WORDS } from '@/core/planning/goals';
import { COMMAND_VERBS, SHELLS, TEMPLATE_CHARACTERS } from '@/core/steps/commands';
import { FILE_SOURCES } from '@/core/table/roll-call';

/* Shapes of what a browser sends, checked with the same schema on both sides. */

const id = string().uuid().required();
const hash = string().matches(/^[0-9a-f]{64}$/);
const sha256 = hash.required('This is no SHA-256.');
const printed = string()
  .required('Paste what the handset printed.')
  .max(LIMITS.factsTextBytes, 'That is longer than any handset prints.');

const handsetName = string()
  .trim()
  .required('Give the handset a name.')
  .max(60, 'Keep the name under 60 characters.');
export const addHandsetSchema = object({ name: handsetName, text: printed });
/** With nothing to paste: what the person types counts as said. */
export const addTypedHandsetSchema = object({
  name: handsetName,
  model: string().trim().required('Say which model it is.').max(80),
  build: string().trim().max(120).default(''),
});
export const renameSchema = object({ handsetId: id, name: handsetName });

export const pasteFactsSchema = object({
  handsetId: id,
  text: printed,
  source: string()
    .oneOf(['pasted', 'file'] as const)
    .default('pasted'),
});

export const packageNameSchema = object({
  fileName: string().trim().required().max(255),
  sizeBytes: number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required(),
});
export const fileSourceSchema = packageNameSchema.shape({ source: string().oneOf(FILE_SOURCES).required() });
/** A maker's list of builds as it was pasted, held against a handset. */
export const findLineSchema = object({
  handsetId: id,
  text: string().required('Paste the list first.').max(1_000_000, 'This is longer than any list of builds.'),
});

/** A recovery of the shelf into a stock image, both by their hashes. */
export const putRecoverySchema = object({
  stock: hash.required(),
  recovery: hash.required('Choose a recovery.'),
});
export const trustImageSchema = object({
  sha256,
  reason: string().trim().required('Say why you trust whoever made it.').max(300),
});
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

const byte = number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required();
const MOST_RANGES = 20_000;
/**
 * The files of a package and the ranges that were read of each to open it; their bytes come beside it, in the
 * same order.
 */
export const openingSchema = object({
  files: array()
    .json()
    .of(
      object({
        name: string().trim().required().max(255),
        size: byte,
        ranges: array()
          .of(tuple([byte, byte]).required())
          .max(MOST_RANGES)
          .required(),
      }),
    )
    .min(1)
    .max(LIMITS.packageFiles)
    .required('Say which files make the package.'),
});

export const stepNoteSchema = object({
  roundId: id,
  stepId: string().uuid(),
  text: string().trim().max(2000).default(''),
});
export const handsetIdSchema = object({ handsetId: id });
const yes = mixed<boolean>().oneOf([true, false]).required();
const chanceLimit = number().min(LIMIT_RANGE[0]).max(LIMIT_RANGE[1]);
const maybe = mixed<boolean>().oneOf([true, false]).default(false);
export const startRoundSchema = object({
  handsetId: id,
  goal: string()
    .oneOf(Object.keys(GOAL_WORDS) as GoalId[])
    .required(),
  target: string().max(300).nullable().defined(),
  lane: string()
    .matches(/^[a-z-]{1,60}$/)
    .nullable()
    .defined(),
  limits: object({
    install: hash,
    computer: yes,
    wipeAllowed: yes,
    keepFuse: yes,
    secondHandset: maybe,
    oneSlot: maybe,
    imageBackup: maybe,
    patchThere: maybe,
    patchedElsewhere: maybe,
    seenFirst: maybe,
    modules: string().oneOf(CAUTIONS).default('by chance'),
    modulesLimit: chanceLimit,
  }).required(),
});
export const putBackSchema = object({
  handsetId: id,
  what: string().trim().required('Say what was changed.').max(200),
});
export const closePutBackSchema = object({
  handsetId: id,
  putBackId: id,
  how: string().trim().default('').max(300),
});
export const commandsSchema = object({
  shell: string().oneOf(SHELLS).required(),
  tool: string().trim().max(2000).default(''),
  templates: object(
    Object.fromEntries(COMMAND_VERBS.map((verb) => [verb, string().max(TEMPLATE_CHARACTERS).default('')])),
  ).required(),
});
export const newRoundSchema = object({
  ...LIMIT_FIELDS,
  handset: id,
  goal: string().max(40),
  target: string().max(300),
  limit: chanceLimit,
  install: string().max(64),
  lane: string().max(60),
});
export const modulesQuerySchema = object({
  handset: string().uuid(),
  caution: string().oneOf(CAUTIONS).default('by chance'),
  limit: chanceLimit,
});
export const moduleTrialSchema = object({
  module: string()
    .matches(/^[A-Za-z][A-Za-z0-9._-]{0,59}$/)
    .required(),
  fingerprint: string().required('On which build?').max(300),
  handsetId: string().uuid().nullable().defined(),
  outcome: string()
    .oneOf(['worked', 'looped', 'misbehaved'] as const)
    .required(),
  note: string().trim().max(500).default(''),
});
export const calendarQuerySchema = object({ month: string().max(10) });
export const logQuerySchema = object({
  text: string().trim().max(200).default(''),
  handset: string().max(60).nullable().default(null),
  title: string().max(200).nullable().default(null),
  state: string().oneOf(LOG_STATES).nullable().default(null),
  most: number().integer().min(1).max(10_000).default(LOG_PAGE),
});
export const waitingRuleSchema = object({
  handsetId: id,
  days: number().integer().min(0).max(MOST_DAYS).required(),
  kit: yes,
  modules: number().integer().min(0).max(200).required(),
});
const moment = number().integer().min(0).max(8_640_000_000_000_000).required();
export const ownDaySchema = object({
  what: string().trim().required('What is on that day?').max(300),
  from: moment,
  to: moment,
  quiet: yes,
});
export const entrySchema = object({ uid: string().required().max(300) });
export const logExportSchema = object({
  form: string().oneOf(EXPORT_FORM_NAMES).required(),
  private: string()
    .oneOf(['yes', 'no'] as const)
    .default('no'),
});
export const batchSchema = object({ handsetIds: array(id).min(2).max(100).required() });

/** Chosen options as they come with an image; null where the text is none. */
export function readOptions(text: string): OptionValues | null {
  try {
    const value: unknown = JSON.parse(text);
    const isOne = (one: unknown) => typeof one === 'string' || typeof one === 'boolean';
    return typeof value === 'object' &&
      value !== null &&
      !Array.isArray(value) &&
      Object.values(value).every(isOne)
      ? (value as OptionValues)
      : null;
  } catch {
    return null;
  }
}

/** Where an image that arrives by `PUT /api/images/SHA` comes from. */
export const imageOriginSchema = object({
  from: string()
    .oneOf(['package', 'patch', 'file', 'read-back'] as const)
    .required(),
  package: string().max(255),
  /** Under which name a file came. */
  name: string().max(255),
  partition: string().matches(/^[a-z][a-z0-9_]{0,62}$/),
  verified: string().oneOf(['yes', 'no'] as const),
  stock: hash,
  kit: hash,
  avb: string().oneOf(['carry', 'rehash'] as const),
  ramdisk: string().oneOf(['gzip'] as const),
  /** What was chosen of the kit's options: a JSON object of texts and yes or no. */
  options: string()
    .max(4000)
    .test(
      'options',
      'These are no options of a kit.',
      (text) => text === undefined || readOptions(text) !== null,
    ),
});
export type ImageOriginInput = InferType<typeof imageOriginSchema>;

const line = (what: string, most = 200) => string().trim().required(what).max(most);
const partition = string()
  .matches(/^[a-z][a-z0-9_]{0,62}$/, 'This is no name of a partition.')
  .required();
const slot = string()
  .oneOf(['a', 'b', '-'] as const)
  .required();
const at = number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required();

export const chooseFactSchema = object({
  handsetId: id,
  key: line('Which fact?', 60),
  value: line('Which value?', 500),
  reason: line('Give the reason for the log.', 500),
});
export const typeFactSchema = object({
  handsetId: id,
  key: line('Which fact?', 60),
  value: line('Say what it is.', 100),
});
export const slotByHandSchema = object({
  handsetId: id,
  slot,
  partition,
  sha256: sha256.nullable().defined(),
  reason: line('Give the reason for the log.', 500),
});
export const readBackFileSchema = object({
  fileName: string().required().max(4096),
  sizeBytes: number().integer().min(0).max(LIMITS.imageBytes).required(),
  sha256,
  holds: string().max(63).nullable().defined(),
  fingerprint: string().max(500).nullable().defined(),
  partition: string().max(63).nullable().defined(),
  slot: string()
    .matches(/^[ab-]$/)
    .nullable()
    .defined(),
  problem: string().max(1000).nullable().defined(),
});
export const recogniseSchema = object({
  handsetId: id,
  files: array(readBackFileSchema).max(LIMITS.packageFiles).required(),
});
export const keepReadBackSchema = object({
  handsetId: id,
  files: array(object({ partition, slot, sha256 })).min(1).max(LIMITS.packageFiles).required(),
});
export const backupParts = array(string().oneOf(BACKUP_PARTS).required()).max(BACKUP_PARTS.length).required();
export const backupNoteSchema = object({
  handsetId: id,
  what: string().oneOf(BACKUP_KINDS).required(),
  parts: backupParts,
  place: string()
    .oneOf(['off the handset', 'on the handset'] as const)
    .required(),
  note: string().trim().max(500).default(''),
});
export const clockSchema = object({
  handsetId: id,
  kind: string()
    .oneOf(['unlock switch', 'mailed code', 'return window', 'tester enrolment'] as const)
    .required(),
  endsAt: at,
  note: string().trim().max(500).default(''),
});
export const dependencySchema = object({
  handsetId: id,
  name: line('Which app or feature?', 80),
  effect: string()
    .oneOf(['stops', 'keeps working', 'unknown'] as const)
    .required(),
  needed: string()
    .oneOf(['yes', 'no'] as const)
    .required(),
  note: string().trim().max(500).default(''),
});
export const edgeSchema = object({
  handsetId: id,
  fromBuild: line('From which build?', 100),
  toBuild: line('To which build?', 100),
  allowed: string()
    .oneOf(['yes', 'no'] as const)
    .required(),
  bootloader: number().integer().min(0).max(1_000_000).nullable().default(null),
  note: string().trim().max(500).default(''),
});
export const secretSchema = object({
  handsetId: id,
  name: string()
    .oneOf(['serial', 'token', 'code'] as const)
    .required(),
  value: line('Paste the value.', 2000),
});
export const recoverySchema = object({
  name: line('What is it called?', 60),
  version: line('Which version?', 40),
  channel: string()
    .oneOf(['stable', 'preview', 'unofficial'] as const)
    .required(),
  devices: array(string().trim().required().max(60)).min(1, 'For which code names?').max(50).required(),
  sdkFrom: number().integer().min(1).max(999).nullable().defined(),
  sdkTo: number().integer().min(1).max(999).nullable().defined(),
  sha256: sha256.nullable().defined(),
  note: string().trim().max(500).default(''),
});
export const trialSchema = object({
  shelf: string()
    .oneOf(['kit', 'recovery'] as const)
    .required(),
  item: string().required().max(100),
  fingerprint: line('On which build?', 500),
  handsetId: string().uuid().nullable().defined(),
  outcome: string()
    .oneOf(['worked', 'looped', 'misbehaved'] as const)
    .required(),
  note: string().trim().max(500).default(''),
});
export const imageHashSchema = object({ sha256 });
export const restoreSchema = object({ token: string().uuid().required() });

const told = string().max(500).nullable().default(null);
/** The part of the command's `facts` that a package is held against. */
export const installedBuildSchema = object({
  fingerprint: told,
  device: told,
  patchLevel: told,
  bootloader: told,
  baseband: told,
  region: told,
  firstApiLevel: number().integer().min(1).max(999).nullable().default(null),
}).required();

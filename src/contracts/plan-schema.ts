import type { InferType, ObjectShape, Schema } from 'yup';
import { array, boolean, lazy, number, object, string } from 'yup';
import { EternoError } from '@/core/errors';
import type { GoalId } from '@/core/planning/context';
import { PLAIN_WEIGHTS } from '@/core/planning/context';
import { GOAL_WORDS } from '@/core/planning/goals';

/* The shape of what the command's verb `plan` takes: what it does not know is refused, never dropped. */

const name = string()
  .matches(/^[a-z][a-z0-9_]{0,40}$/)
  .required();
const PARTITION_SLOT = /^[a-z][a-z0-9_]{0,40}_[ab]$/;
/** Wishes as they are told, and the limit that each one is. */
export const WISHES = {
  'image of the data first': 'imageBackup',
  'see the build start first': 'seenFirst',
} as const;

const build = string().max(300).required();
const builds = array(build).max(200).default([]);

const anyBuild = string().max(300);
const level = number().integer().min(0).max(1_000_000);
const date = string().matches(/^\d{4}-\d{2}(-\d{2})?$/);
const slotName = string().oneOf(['a', 'b'] as const);

/** An object that names everything it knows: what it does not is refused, never dropped. */
const only = <S extends ObjectShape>(shape: S) => object(shape).noUnknown();
/** An object with names of its own. */
const named = (of: (names: readonly string[]) => ObjectShape) =>
  lazy((value: unknown) => only(of(Object.keys((value ?? {}) as object))));
const each = (key: RegExp, schema: Schema) =>
  named((names) => Object.fromEntries(names.filter((one) => key.test(one)).map((one) => [one, schema])));

const recoverySchema = only({ name: string().max(60).required(), opensUpTo: number().integer().required() })
  .nullable()
  .default(null);
const imageSchema = only({
  build: anyBuild.nullable(),
  /** Its older name. */
  fingerprint: anyBuild.nullable(),
  patched: boolean().default(false),
  broken: string().max(200).nullable().default(null),
  recovery: recoverySchema,
});
const edges = array(only({ from: build, to: build }))
  .max(200)
  .default([]);
const slotSchema = only({
  bootable: boolean().default(true),
  proven: boolean().default(false),
  triesLeft: number().integer().min(0).max(99).default(0),
});

const handsetSchema = only({
  rootPartition: name,
  slotCount: number()
    .oneOf([1, 2] as const)
    .required(),
  recoveryHome: string()
    .oneOf(['recovery', 'boot', 'vendor_boot'] as const)
    .nullable()
    .defined(),
  partitions: array(name).min(1).max(32).required(),
  sdk: number().integer().min(1).max(999).required(),
  unlockPath: string()
    .oneOf(['command', 'mailed code', 'key chord', 'none'] as const)
    .default('command'),
  hasDownload: boolean().default(false),
  bootloaderWrites: boolean().default(true),
  startsOnce: boolean().default(false),
  restoresRecovery: boolean().default(false),
  mergesUpdates: boolean().default(true),
  strictRamdisk: boolean().default(true),
  systemAsRoot: boolean().default(false),
  needsVbmetaFlags: boolean().default(false),
  openBuilds: builds,
  edges,
  /** Its older name. */
  sideloadsDown: edges,
  builds: each(
    /./,
    only({
      patchLevel: date.required(),
      sdk: level.required(),
      index: level.required(),
      bootloader: level.required(),
    }),
  ),
  makerFloor: date.nullable().default(null),
});

const stateSchema = only({
  mode: string()
    .oneOf([
      'system',
      'bootloader',
      'userspace',
      'download',
      'recovery',
      'sideload',
      'off',
      'looping',
    ] as const)
    .default('system'),
  locked: boolean().required(),
  active: slotName.default('a'),
  unlockSwitch: string()
    .oneOf(['on', 'off', 'greyed', 'absent'] as const)
    .default('on'),
  builds: only({ a: anyBuild.nullable(), b: anyBuild.nullable() }).required(),
  images: each(PARTITION_SLOT, imageSchema),
  modules: array(string().max(60).required()).max(200).default([]),
  slots: only({ a: slotSchema.nullable().default(null), b: slotSchema.nullable().default(null) }),
  snapshot: string()
    .oneOf(['none', 'waiting', 'merging'] as const)
    .default('none'),
  update: only({ slot: slotName.required(), build }).nullable().default(null),
  floors: only({ bootloader: level.nullable(), fuse: level.nullable(), index: level.nullable() }).nullable(),
  data: only({
    committedBy: anyBuild.nullable(),
    keyLevel: date.nullable(),
    encrypted: boolean().default(true),
  }).nullable(),
  record: only({ fuseBlown: boolean().nullable().default(null), writes: level.default(0) }).nullable(),
  batteryPercent: number().min(0).max(100).nullable(),
  rooted: boolean().nullable(),
  vbmetaFlags: level.nullable(),
  rootApp: string().oneOf(['absent', 'unfinished', 'ready'] as const),
  settings: only({ debugging: boolean().default(true), autoUpdate: boolean().default(false) }),
}).required();

const inputSchema = only({
  goal: string()
    .oneOf(Object.keys(GOAL_WORDS) as GoalId[])
    .required(),
  target: anyBuild.nullable(),
  handset: handsetSchema.required(),
  state: stateSchema,
  kit: string().max(80).nullable().default(null),
  recovery: recoverySchema,
  fullPackages: builds,
  incrementalTo: builds,
  kept: builds,
  limits: only({
    computer: boolean().default(true),
    wipeAllowed: boolean().default(false),
    keepFuse: boolean().default(false),
    secondHandset: boolean().default(false),
    oneSlot: boolean().default(false),
  }).default({}),
  wishes: array(
    string()
      .oneOf(Object.keys(WISHES) as (keyof typeof WISHES)[])
      .required(),
  )
    .max(8)
    .default([]),
  fuseKnown: boolean().default(true),
  weights: only(
    Object.fromEntries(Object.keys(PLAIN_WEIGHTS).map((key) => [key, number().min(0).max(1_000_000)])),
  ),
});

export type PlanInput = InferType<typeof inputSchema>;

export type ToldImage = Readonly<InferType<typeof imageSchema>>;

/** Everything filled in that was not told. @throws {EternoError} `bad-field` for what it does not know */
export async function readPlanInput(value: unknown): Promise<PlanInput> {
  const input = await inputSchema.validate(value, { strict: true }).catch((thrown: unknown) => {
    throw new EternoError(
      'bad-field',
      thrown instanceof Error ? thrown.message : 'this is no handset and goal',
    );
  });
  return inputSchema.cast(input);
}

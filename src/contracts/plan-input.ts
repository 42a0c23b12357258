import type { InferType } from 'yup';
import { array, boolean, lazy, mixed, number, object, string } from 'yup';
import { EternoError } from '@/core/errors';
import type { HandsetProfile, HandsetState, ImageFacts } from '@/core/handset/state';
import { PLAIN_PROFILE, PLAIN_STATE } from '@/core/handset/state';
import type { GoalId, PlanContext } from '@/core/planning/context';
import { PLAIN_WEIGHTS } from '@/core/planning/context';
import { GOAL_WORDS } from '@/core/planning/goals';

/*
 * What the command's verb `plan` takes: a handset and what is wanted, as much of it as is known; the rest is
 * a common handset's.
 */

const name = string()
  .matches(/^[a-z][a-z0-9_]{0,40}$/)
  .required();
const build = string().max(300).required();
const builds = array(build).max(200).default([]);

const imageSchema = object({
  fingerprint: string().max(300).nullable().default(null),
  patched: boolean().default(false),
  broken: string().max(200).nullable().default(null),
  recovery: object({ name: string().max(60).required(), opensUpTo: number().integer().required() })
    .nullable()
    .default(null),
});

const inputSchema = object({
  goal: string()
    .oneOf(Object.keys(GOAL_WORDS) as GoalId[])
    .required(),
  target: string().max(300),
  handset: object({
    rootPartition: name,
    slotCount: number()
      .oneOf([1, 2] as const)
      .required(),
    recoveryHome: string()
      .oneOf(['recovery', 'boot', 'vendor_boot'] as const)
      .required(),
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
    openBuilds: builds,
    sideloadsDown: array(object({ from: build, to: build }))
      .max(200)
      .default([]),
  }).required(),
  state: object({
    mode: string()
      .oneOf(['system', 'bootloader', 'off', 'looping'] as const)
      .default('system'),
    locked: boolean().required(),
    active: string()
      .oneOf(['a', 'b'] as const)
      .default('a'),
    unlockSwitch: string()
      .oneOf(['on', 'off', 'greyed', 'absent'] as const)
      .default('on'),
    builds: object({ a: build, b: string().max(300) }).required(),
    images: lazy((value: unknown) =>
      object(Object.fromEntries(Object.keys((value ?? {}) as object).map((key) => [key, imageSchema]))),
    ),
    modules: array(string().max(60).required()).max(200).default([]),
  }).required(),
  kit: string().max(80).nullable().default(null),
  recovery: object({ name: string().max(60).required(), opensUpTo: number().integer().required() })
    .nullable()
    .default(null),
  fullPackages: builds,
  incrementalTo: builds,
  kept: builds,
  limits: object({
    computer: boolean().default(true),
    wipeAllowed: boolean().default(false),
    keepFuse: boolean().default(false),
    secondHandset: boolean().default(false),
    oneSlot: boolean().default(false),
  }).default({}),
  fuseKnown: boolean().default(true),
  weights: mixed<Partial<typeof PLAIN_WEIGHTS>>().default({}),
});

type PlanInput = InferType<typeof inputSchema>;

const profileOf = ({ handset }: PlanInput): HandsetProfile => ({
  ...PLAIN_PROFILE,
  ...handset,
  slotCount: handset.slotCount === 1 ? 1 : 2,
  id: 'plan',
  product: 'plan',
  model: 'plan',
  serial: '',
  bootloader: '',
  baseband: '',
  release: '',
  firstApiLevel: handset.sdk,
  maxDownloadBytes: Number.MAX_SAFE_INTEGER,
  partitionBytes: Object.fromEntries(
    handset.partitions.map((partition) => [partition, Number.MAX_SAFE_INTEGER]),
  ),
});

interface ToldImage {
  readonly fingerprint: string | null;
  readonly patched: boolean;
  readonly broken: string | null;
  readonly recovery: ImageFacts['recovery'];
}

/** An image as it was told, or the stock one of the slot's build. */
function imageOf(partition: string, build: string, told: ToldImage | undefined, kit: string): ImageFacts {
  const { fingerprint, patched, broken, recovery } = told ?? {
    fingerprint: null,
    patched: false,
    broken: null,
    recovery: null,
  };
  const of = fingerprint ?? build;
  const stockSha256 = `stock ${partition} ${of}`;
  return {
    sha256: patched ? `patched ${of}` : stockSha256,
    sizeBytes: 1,
    broken,
    fingerprint: of,
    patchedBy: patched ? { kit, stockSha256 } : null,
    digestValid: !patched && !recovery,
    recovery,
  };
}

function startOf({ handset, state, kit }: PlanInput, { triesPerSlot }: HandsetProfile): HandsetState {
  const at = { a: state.builds.a, b: state.builds.b ?? state.builds.a };
  const told = (state.images ?? {}) as Readonly<Record<string, ToldImage>>;
  const slots = handset.slotCount === 2 ? (['a', 'b'] as const) : (['a'] as const);
  const images = Object.fromEntries(
    slots.flatMap((slot) =>
      handset.partitions.map((partition) => {
        const name = `${partition}_${slot}`;
        return [name, imageOf(partition, at[slot], told[name], kit ?? 'a kit')] as const;
      }),
    ),
  );
  const rooted = (images[`${handset.rootPartition}_${state.active}`]?.patchedBy ?? null) !== null;
  const proven = { bootable: true, proven: true, triesLeft: triesPerSlot };
  return {
    ...PLAIN_STATE,
    mode: state.mode,
    locked: state.locked,
    active: state.active,
    unlockSwitch: state.unlockSwitch,
    slots: { a: proven, b: proven },
    builds: at,
    images,
    running: state.mode === 'system' ? { slot: state.active, build: at[state.active], rooted } : null,
    rootApp: rooted ? 'ready' : 'absent',
    data: { ...PLAIN_STATE.data, committedBy: at[state.active] },
    modules: { on: true, ids: state.modules },
  };
}

/** @throws {EternoError} `bad-field` */
export async function parsePlanInput(value: unknown): Promise<PlanContext> {
  const input = await inputSchema.validate(value).catch((thrown: unknown) => {
    throw new EternoError(
      'bad-field',
      thrown instanceof Error ? thrown.message : 'this is no handset and goal',
    );
  });
  const { goal, kit, recovery, fullPackages, incrementalTo, kept, limits, fuseKnown, weights } = input;
  const profile = profileOf(input);
  const start = startOf(input, profile);
  return {
    profile,
    start,
    goal,
    target: input.target ?? start.builds[start.active],
    kit,
    recovery,
    fullPackages,
    incrementalTo,
    kept,
    limits,
    weights: { ...PLAIN_WEIGHTS, ...weights },
    recoveryHomeRead: true,
    fuseKnown,
    pace: {},
  };
}

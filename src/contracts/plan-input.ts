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

/** @throws {EternoError} `bad-field` */
export async function parsePlanInput(value: unknown): Promise<PlanContext> {
  const input = await inputSchema.validate(value).catch((thrown: unknown) => {
    throw new EternoError(
      'bad-field',
      thrown instanceof Error ? thrown.message : 'this is no handset and goal',
    );
  });
  const { handset, state } = input;
  const profile: HandsetProfile = {
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
  };
  const at = { a: state.builds.a, b: state.builds.b ?? state.builds.a };
  const told = (state.images ?? {}) as Record<
    string,
    { fingerprint: string | null; patched: boolean; broken: string | null; recovery: ImageFacts['recovery'] }
  >;
  const images: Record<string, ImageFacts> = {};
  for (const slot of handset.slotCount === 2 ? (['a', 'b'] as const) : (['a'] as const)) {
    for (const partition of handset.partitions) {
      const one = told[`${partition}_${slot}`];
      const fingerprint = one?.fingerprint ?? at[slot];
      images[`${partition}_${slot}`] = {
        sha256: one?.patched ? `patched ${fingerprint}` : `stock ${partition} ${fingerprint}`,
        sizeBytes: 1,
        broken: one?.broken ?? null,
        fingerprint,
        patchedBy: one?.patched
          ? { kit: input.kit ?? 'a kit', stockSha256: `stock ${partition} ${fingerprint}` }
          : null,
        digestValid: !one?.patched && !one?.recovery,
        recovery: one?.recovery ?? null,
      };
    }
  }
  const rooted = images[`${handset.rootPartition}_${state.active}`]?.patchedBy?.kit !== undefined;
  const proven = { bootable: true, proven: true, triesLeft: profile.triesPerSlot };
  const start: HandsetState = {
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
  const { goal, kit, recovery, fullPackages, incrementalTo, kept, limits } = input;
  return {
    profile,
    start,
    goal,
    target: input.target ?? at[state.active],
    kit,
    recovery,
    fullPackages,
    incrementalTo,
    kept,
    limits,
    weights: { ...PLAIN_WEIGHTS, ...input.weights },
    recoveryHomeRead: true,
    fuseKnown: input.fuseKnown,
    pace: {},
  };
}

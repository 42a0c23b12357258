import type { InferType, ObjectShape, Schema } from 'yup';
import { array, boolean, lazy, number, object, string } from 'yup';
import { EternoError } from '@/core/errors';
import { compareBuilds, onSlot } from '@/core/handset/builds';
import { SPENT, withoutSystem } from '@/core/handset/operated';
import { startFault } from '@/core/handset/start';
import type { HandsetProfile, HandsetState, ImageFacts, Slot, SlotState } from '@/core/handset/state';
import { otherSlot, PLAIN_PROFILE, PLAIN_STATE } from '@/core/handset/state';
import type { GoalId, PlanContext, Unknown } from '@/core/planning/context';
import { PLAIN_WEIGHTS, UNKNOWNS } from '@/core/planning/context';
import { GOAL_WORDS, goesToStock, wantsRoot } from '@/core/planning/goals';

/*
 * What the command's verb `plan` takes: a handset and what is wanted, as much of it as is known; the rest is
 * a common handset's.
 */

const name = string()
  .matches(/^[a-z][a-z0-9_]{0,40}$/)
  .required();
const PARTITION_SLOT = /^[a-z][a-z0-9_]{0,40}_[ab]$/;
/** Wishes as they are told, and the limit that each one is. */
const WISHES = {
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

type PlanInput = InferType<typeof inputSchema>;

/** A schema with names of its own fills nothing in. */
const toldBuilds = ({ builds: told }: PlanInput['handset']) => (told ?? {}) as HandsetProfile['builds'];

function profileOf({ handset }: PlanInput): HandsetProfile {
  const { recoveryHome, partitions, edges: down, sideloadsDown, systemAsRoot: _legacy, ...rest } = handset;
  return {
    ...PLAIN_PROFILE,
    ...rest,
    slotCount: handset.slotCount === 1 ? 1 : 2,
    mergesUpdates: handset.mergesUpdates && handset.slotCount === 2,
    recoveryHome: recoveryHome ?? likelyHome(partitions),
    builds: toldBuilds(handset),
    sideloadsDown: [...down, ...sideloadsDown],
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
      // what every handset has, whether or not it was named
      [...partitions, 'bootloader'].map((partition) => [partition, Number.MAX_SAFE_INTEGER]),
    ),
  };
}

/** By rule of thumb, until it is read: the first of these that the handset has. */
const likelyHome = (partitions: readonly string[]): HandsetProfile['recoveryHome'] =>
  (['recovery', 'vendor_boot'] as const).find((home) => partitions.includes(home)) ?? 'boot';

type ToldImage = Readonly<InferType<typeof imageSchema>>;
const STOCK: ToldImage = { patched: false, broken: null, recovery: null };

/** An image as it was told, or the stock one of the slot's build. */
function imageOf(partition: string, slotBuild: string, told: ToldImage, kit: string): ImageFacts {
  const { patched, broken, recovery } = told;
  const of = told.build ?? told.fingerprint ?? slotBuild;
  const stockSha256 = `stock ${partition} ${of}`;
  return {
    sha256: patched ? `patched ${of}` : recovery ? `${recovery.name} for ${of}` : stockSha256,
    sizeBytes: 1,
    broken,
    fingerprint: of,
    patchedBy: patched ? { kit, stockSha256 } : null,
    digestValid: !patched && !recovery,
    recovery,
  };
}

type Builds = Readonly<Record<Slot, string>>;

/** What runs and what starts next: an update that waits has made its slot the one that is started. */
function seats({ state }: PlanInput) {
  const { active, mode, snapshot, builds: told } = state;
  const known = told[active] ?? told[otherSlot(active)] ?? '';
  const builds: Builds = { a: told.a ?? known, b: told.b ?? known };
  const other = otherSlot(active);
  const waits = snapshot === 'waiting' ? (state.update ?? { slot: other, build: builds[other] }) : null;
  return {
    builds: waits ? { ...builds, [waits.slot]: waits.build } : builds,
    update: waits ?? (snapshot === 'none' ? state.update : null),
    runs: mode === 'system' ? active : null,
    next: (waits ?? state.update)?.slot ?? active,
    otherUnknown: (told[other] ?? null) === null,
  };
}

function imagesOf({ handset, state, kit }: PlanInput, builds: Builds): Record<string, ImageFacts> {
  const told = (state.images ?? {}) as Readonly<Record<string, ToldImage>>;
  const slots = handset.slotCount === 2 ? (['a', 'b'] as const) : (['a'] as const);
  const images = Object.fromEntries(
    slots.flatMap((slot) =>
      [...handset.partitions, 'bootloader'].map((partition) => {
        const key = onSlot(partition, slot);
        return [key, imageOf(partition, builds[slot], told[key] ?? STOCK, kit ?? 'a kit')] as const;
      }),
    ),
  );
  const flags = state.vbmetaFlags ?? 0;
  const vbmeta = onSlot('vbmeta', state.active);
  if (flags !== 0 && images[vbmeta])
    images[vbmeta] = { ...images[vbmeta], sha256: `flags ${flags}`, flags, digestValid: false };
  const root = onSlot(handset.rootPartition, state.active);
  // neither the maker's nor patched: nobody has looked
  if (state.rooted === null && images[root] && told[root] === undefined)
    images[root] = { ...images[root], sha256: 'never read', digestValid: false };
  return images;
}

/** What was never read of a slot is not promised: nothing falls back to it. */
function slotsOf({ state, handset }: PlanInput, triesPerSlot: number): Readonly<Record<Slot, SlotState>> {
  const other = otherSlot(state.active);
  const waits = state.update?.slot ?? (state.snapshot === 'waiting' ? other : null);
  const unread = (slot: Slot): SlotState =>
    slot === state.active || handset.slotCount === 1
      ? { bootable: true, proven: true, triesLeft: triesPerSlot }
      : slot === waits
        ? { bootable: true, proven: false, triesLeft: triesPerSlot }
        : SPENT;
  const of = (slot: Slot) => state.slots?.[slot] ?? unread(slot);
  const slots = { a: of('a'), b: of('b') };
  return state.snapshot === 'merging' && handset.mergesUpdates ? withoutSystem(slots, other) : slots;
}

function floorsOf({ state, handset }: PlanInput, installed: string): HandsetState['floors'] {
  const facts = toldBuilds(handset)[installed];
  const bootloader = state.floors?.bootloader ?? facts?.bootloader ?? 0;
  // a fuse that nobody has read is not above what runs; below that nothing is known
  return { bootloader, fuse: state.floors?.fuse ?? bootloader, index: state.floors?.index ?? 0 };
}

function startOf(input: PlanInput, { triesPerSlot }: HandsetProfile): HandsetState {
  const { handset, state } = input;
  const { builds, update, runs, next } = seats(input);
  const images = imagesOf(input, builds);
  const installed = builds[state.active];
  const onDisk = (images[onSlot(handset.rootPartition, state.active)]?.patchedBy ?? null) !== null;
  const rooted = state.rooted ?? onDisk;
  const { committedBy, keyLevel, encrypted } = state.data ?? { encrypted: true };
  return {
    ...PLAIN_STATE,
    mode: state.mode,
    locked: state.locked,
    active: next,
    unlockSwitch: state.unlockSwitch,
    slots: slotsOf(input, triesPerSlot),
    builds,
    images,
    running: runs === null ? null : { slot: runs, build: builds[runs], rooted },
    update: update ?? null,
    snapshot: state.snapshot,
    floors: floorsOf(input, installed),
    record: { fuseBlown: state.record?.fuseBlown ?? onDisk, writes: state.record?.writes ?? 0 },
    batteryPercent: state.batteryPercent ?? PLAIN_STATE.batteryPercent,
    rootApp: state.rootApp ?? (onDisk ? 'ready' : 'absent'),
    data: {
      ...PLAIN_STATE.data,
      encrypted,
      committedBy: committedBy === undefined ? installed : committedBy,
      keyLevel: keyLevel ?? null,
    },
    modules: { on: true, ids: state.modules },
    settings: { ...PLAIN_STATE.settings, ...state.settings },
  };
}

/** Newer than any build: keys that nothing here opens. */
const UNOPENED = '9999-12-31';

/**
 * One that loops though nothing that was told keeps it from starting: something does. With modules on root it is
 * they; else its changed image; else its data.
 */
function believed(profile: HandsetProfile, state: HandsetState): readonly [HandsetProfile, HandsetState] {
  if (state.mode !== 'looping' || startFault(profile, state, state.active) !== null) return [profile, state];
  const key = onSlot(profile.rootPartition, state.active);
  const image = state.images[key];
  const build = state.builds[state.active];
  if (image?.patchedBy && state.modules.ids.length > 0)
    return [{ ...profile, badModules: state.modules.ids.map((id) => ({ id, build })) }, state];
  if (image?.patchedBy)
    return [
      profile,
      { ...state, images: { ...state.images, [key]: { ...image, broken: 'it does not start' } } },
    ];
  return [profile, { ...state, data: { ...state.data, keyLevel: UNOPENED } }];
}

/** What nobody told and a plan depends on, in the order in which it is found out. */
function unknownOf(input: PlanInput, profile: HandsetProfile): Unknown[] {
  const { handset, state, goal } = input;
  const matters: Readonly<Record<Unknown, boolean>> = {
    root: state.rooted === null,
    'recovery-home': handset.recoveryHome === null,
    fuse: state.floors?.fuse === null,
    battery: state.batteryPercent === null,
    snapshot: false,
    'other-slot': profile.slotCount === 2 && goesToStock(goal) && seats(input).otherUnknown,
  };
  return UNKNOWNS.filter((what) => matters[what]);
}

/** The build that has to run in the end, and another that will do as well. */
function targetsOf(
  input: PlanInput,
  profile: HandsetProfile,
  start: HandsetState,
): Pick<PlanContext, 'target' | 'orTarget'> {
  const installed = start.running?.build ?? start.builds[start.active];
  if (input.target != null) return { target: input.target };
  // nobody said which of the two: the one that waits, or the one that runs
  if (start.update !== null && wantsRoot(input.goal))
    return { target: start.update.build, orTarget: installed };
  const newest = start.data.committedBy;
  if (
    input.goal === 'repair' &&
    newest !== null &&
    input.fullPackages.includes(newest) &&
    compareBuilds(profile, newest, installed) > 0
  )
    return { target: newest };
  return { target: installed };
}

/** @throws {EternoError} `bad-field` */
export async function parsePlanInput(value: unknown): Promise<PlanContext> {
  const input = await inputSchema.validate(value, { strict: true }).catch((thrown: unknown) => {
    throw new EternoError(
      'bad-field',
      thrown instanceof Error ? thrown.message : 'this is no handset and goal',
    );
  });
  const filled: PlanInput = inputSchema.cast(input);
  const { goal, kit, recovery, fullPackages, kept, limits, weights, wishes } = filled;
  const told = profileOf(filled);
  const [profile, start] = believed(told, startOf(filled, told));
  const targets = targetsOf(filled, profile, start);
  const installed = start.running?.build ?? start.builds[start.active];
  // its own updater offers every newer build
  const offered =
    compareBuilds(profile, targets.target, installed) > 0 && !fullPackages.includes(targets.target)
      ? [targets.target]
      : [];
  return {
    profile,
    start,
    goal,
    ...targets,
    kit,
    recovery,
    fullPackages,
    incrementalTo: [...new Set([...filled.incrementalTo, ...offered])],
    kept,
    limits: { ...limits, ...Object.fromEntries(wishes.map((wish) => [WISHES[wish], true])) },
    weights: { ...PLAIN_WEIGHTS, ...weights },
    recoveryHomeRead: true,
    rebuildsRecovery: true,
    fuseKnown: filled.fuseKnown,
    unknown: unknownOf(filled, profile),
    pace: {},
  };
}

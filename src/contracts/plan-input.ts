import { compareBuilds, onSlot } from '@/core/handset/builds';
import { SPENT, untried, withoutSystem } from '@/core/handset/operated';
import { startFault } from '@/core/handset/start';
import type { HandsetProfile, HandsetState, ImageFacts, Slot, SlotState } from '@/core/handset/state';
import { otherSlot, PLAIN_PROFILE, PLAIN_STATE, UNOPENED } from '@/core/handset/state';
import type { PlanContext, Unknown } from '@/core/planning/context';
import { PLAIN_WEIGHTS, UNKNOWNS } from '@/core/planning/context';
import { goesToStock, wantsRoot } from '@/core/planning/goals';
import type { PlanInput, ToldImage } from './plan-schema';
import { readPlanInput, WISHES } from './plan-schema';

/*
 * A handset and what is wanted, as the command's verb `plan` takes them: as much of it as is known; the rest is a
 * common handset's.
 */

/** A schema with names of its own fills nothing in. */
const toldBuilds = ({ builds: told }: PlanInput['handset']) => (told ?? {}) as HandsetProfile['builds'];

function profileOf({ handset }: PlanInput): HandsetProfile {
  // where the system is root, boot's ramdisk is the recovery's; that root can sit there is the kit's word
  const { recoveryHome, partitions, edges: down, sideloadsDown, systemAsRoot, ...rest } = handset;
  return {
    ...PLAIN_PROFILE,
    ...rest,
    slotCount: handset.slotCount === 1 ? 1 : 2,
    mergesUpdates: handset.mergesUpdates && handset.slotCount === 2,
    systemAsRoot,
    recoveryHome: recoveryHome ?? (systemAsRoot ? 'boot' : likelyHome(partitions)),
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
    choosesRamdisk: patched,
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
        ? untried({ triesPerSlot })
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

function dataOf({ data }: PlanInput['state'], installed: string): HandsetState['data'] {
  const { committedBy, keyLevel, encrypted } = data ?? { encrypted: true };
  return {
    ...PLAIN_STATE.data,
    encrypted,
    committedBy: committedBy === undefined ? installed : committedBy,
    keyLevel: keyLevel ?? null,
  };
}

function startOf(input: PlanInput, { triesPerSlot }: HandsetProfile): HandsetState {
  const { handset, state } = input;
  const { builds, update, runs, next } = seats(input);
  const images = imagesOf(input, builds);
  const installed = builds[state.active];
  const onDisk = (images[onSlot(handset.rootPartition, state.active)]?.patchedBy ?? null) !== null;
  const rooted = state.rooted ?? onDisk;
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
    data: dataOf(state, installed),
    modules: { on: true, ids: state.modules },
    settings: { ...PLAIN_STATE.settings, ...state.settings },
  };
}

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
    switch: false,
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
  if (typeof input.target === 'string') return { target: input.target };
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
  const filled = await readPlanInput(value);
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
    rebuildsRecovery: 'from the slot too',
    fuseKnown: filled.fuseKnown,
    unknown: unknownOf(filled, profile),
    pace: {},
  };
}

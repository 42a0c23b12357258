import { newestAfter, onSlot } from '../handset/builds';
import type { HandsetOperation } from '../handset/operate';
import { operate } from '../handset/operate';
import type { HandsetProfile, HandsetState, Slot } from '../handset/state';
import { otherSlot, UNOPENED } from '../handset/state';
import type { GoalId, PlanContext } from '../planning/context';
import { patchedImage, stockImage, wholeBuild } from '../planning/context';
import type { CauseId, RepairId } from '../words/rescue';
import type { Believed } from './belief';

/*
 * The smallest repair that can work: each is tried on the machine, once for every cause that a machine can have
 * (docs/method.md, "Rescue"). Those of the line, the app and the file are told as such.
 */

export interface Repair {
  /** Expected minutes, and minutes that its failing costs. */
  readonly minutes: number;
  readonly risk: number;
  /** How often it starts, or tries to. */
  readonly restarts: number;
  readonly wipes: boolean;
  /** It has to be written from the bootloader or download mode. */
  readonly writes: boolean;
  /** Causes that it mends though no machine has them. */
  readonly mends: readonly CauseId[];
}

const small = (minutes: number, mends: readonly CauseId[], restarts = 0): Repair => ({
  minutes,
  risk: 0,
  restarts,
  wipes: false,
  writes: false,
  mends,
});
const write = (minutes: number, risk: number, mends: readonly CauseId[] = []): Repair => ({
  minutes,
  risk,
  restarts: 1,
  wipes: false,
  writes: true,
  mends,
});

export const REPAIRS: Readonly<Record<RepairId, Repair>> = {
  wait: small(10, ['slow-start']),
  charge: small(30, ['battery']),
  replug: small(2, ['cable']),
  'free-line': small(6, ['driver']),
  'trust-again': small(3, ['debugging-off']),
  'merge-on': small(15, ['snapshot'], 1),
  'kit-rests': small(6, [], 3),
  'show-app': small(3, ['root-app']),
  'push-again': small(3, ['file-place']),
  'right-mode': small(5, ['shut-bootloader']),
  'right-package': small(15, ['wrong-package']),
  'select-again': write(3, 0.5),
  'stock-image': write(4, 0.5),
  'vendor-boot': write(4, 1),
  'other-slot': write(4, 3),
  'root-again': write(8, 1, ['stock-on-disk']),
  'other-kit': write(12, 1),
  'recovery-again': write(6, 1, ['put-back', 'recovery-image']),
  'newer-recovery': write(15, 1, ['recovery-release', 'recovery-image']),
  'parts-back': write(10, 1, ['not-stock']),
  'whole-build': write(20, 4, ['not-stock']),
  'newer-build': write(20, 4),
  erase: { minutes: 10, risk: 1, restarts: 1, wipes: true, writes: false, mends: [] },
  seller: {
    minutes: 0,
    risk: 0,
    restarts: 0,
    wipes: false,
    writes: false,
    mends: ['hardware', 'bootloader'],
  },
};
/** What the round of a repair is about; those that are done without one are not in it. */
export const REPAIR_GOALS: Readonly<Partial<Record<RepairId, GoalId>>> = {
  'stock-image': 'return to stock',
  'vendor-boot': 'repair',
  'other-slot': 'repair',
  'select-again': 'repair',
  'whole-build': 'repair',
  erase: 'repair',
  'root-again': 'root again',
  'other-kit': 'root again',
  'recovery-again': 'keep a recovery',
  'newer-recovery': 'keep a recovery',
  'parts-back': 'return to stock',
  'newer-build': 'monthly update',
};
/** What the planner takes to be wrong for it: the plan is the one for exactly this fault. */
export const REPAIR_SUPPOSES: Readonly<Partial<Record<RepairId, CauseId>>> = {
  'vendor-boot': 'vendor-boot',
  'select-again': 'tries',
  'whole-build': 'half-build',
  'newer-build': 'data',
  erase: 'data',
};
/** The lanes that do exactly this repair, the first that is a way there is taken. */
export const REPAIR_LANES: Readonly<Partial<Record<RepairId, readonly string[]>>> = {
  'stock-image': ['stock-images-back'],
  'vendor-boot': ['vendor-boot-back'],
  'select-again': ['select-again'],
  'other-slot': ['other-slot'],
  'whole-build': ['whole-build-repair', 'firmware-set-plain'],
  'newer-build': ['whole-build-repair', 'firmware-set-plain'],
  erase: ['erase-and-start'],
};
export const REPAIR_IDS = Object.keys(REPAIRS) as readonly RepairId[];

const TOO_OLD = 'its kit is too old';

type World = { readonly profile: HandsetProfile; readonly state: HandsetState };

/** The handset with exactly this fault, as it then stands; null for what no machine has. */
export function withFault({ profile, start }: PlanContext, cause: CauseId): World | null {
  const { active } = start;
  const build = start.builds[active];
  const looping: HandsetState = {
    ...start,
    mode: 'looping',
    running: null,
    rootRequest: 'none',
    loops: 1,
    snapshot: 'none',
    update: null,
  };
  const put = (partition: string, change: Partial<HandsetState['images'][string]>): World | null => {
    const key = onSlot(partition, active);
    const there = looping.images[key];
    return there
      ? { profile, state: { ...looping, images: { ...looping.images, [key]: { ...there, ...change } } } }
      : null;
  };
  const withSlot = (change: Partial<HandsetState['slots']['a']>): World => ({
    profile,
    state: { ...looping, slots: { ...looping.slots, [active]: { ...looping.slots[active], ...change } } },
  });
  switch (cause) {
    case 'module': {
      const ids = looping.modules.ids.length > 0 ? looping.modules.ids : ['it'];
      return {
        profile: { ...profile, badModules: ids.map((id) => ({ id, build })) },
        state: {
          ...looping,
          images: { ...looping.images, [onSlot(profile.rootPartition, active)]: rooted(profile, build) },
          modules: { on: true, ids },
        },
      };
    }
    case 'root-image':
      return put(profile.rootPartition, { broken: 'it is damaged' });
    case 'kit':
      return put(profile.rootPartition, { ...rooted(profile, build), broken: TOO_OLD });
    case 'vendor-boot':
      return put('vendor_boot', { fingerprint: 'another build', sha256: 'of another build' });
    case 'half-build':
      return (
        put('system', { broken: 'its write was cut short' }) ??
        put('boot', { broken: 'its write was cut short' })
      );
    case 'tries':
      return profile.slotCount === 2 ? withSlot({ proven: false, triesLeft: 0 }) : null;
    case 'wrong-slot': {
      if (profile.slotCount !== 2) return null;
      const other = otherSlot(active);
      const slots = {
        ...looping.slots,
        [other]: { bootable: true, proven: false, triesLeft: 0, gone: true },
      };
      return { profile, state: { ...looping, active: other, slots } };
    }
    case 'data': {
      const newer = newestAfter(profile, build);
      const data =
        newer === null
          ? { ...looping.data, keyLevel: UNOPENED }
          : { ...looping.data, keyLevel: profile.builds[newer]!.patchLevel, committedBy: newer };
      return { profile: { ...profile, bindsKeys: true }, state: { ...looping, data } };
    }
    default:
      return null;
  }
}

const rooted = (profile: HandsetProfile, build: string) => patchedImage({ profile, kit: 'the kit' }, build);

/** What a repair is made of on one handset. */
interface Bench {
  readonly context: PlanContext;
  readonly world: World;
  /** The build that lies on the slot that ran. */
  readonly build: string;
  readonly enter: readonly HandsetOperation[];
}
type Operations = readonly HandsetOperation[] | null;

const START: readonly HandsetOperation[] = [{ do: 'restart' }, { do: 'finish-start' }];

function writeOne(
  { world: { profile, state }, build, enter }: Bench,
  partition: string,
  image = stockImage(partition, build),
): Operations {
  return profile.bootloaderWrites && profile.partitionBytes[partition] !== undefined
    ? [...enter, { do: 'write', partition: onSlot(partition, state.active), image }, ...START]
    : null;
}

function writeAll({ context, world: { profile }, enter }: Bench, build: string | null): Operations {
  if (build === null) return null;
  const whole = wholeBuild(context, build, false);
  if (profile.bootloaderWrites)
    return [...enter, { do: 'write-build', whole, both: false, wipe: false }, ...START];
  return profile.hasDownload
    ? [...enter, { do: 'write-set', whole, keepData: true }, { do: 'finish-start' }]
    : null;
}

const selecting = ({ world: { profile }, enter }: Bench, slot: Slot): Operations =>
  profile.slotCount === 2 ? [...enter, { do: 'set-active', slot }, ...START] : null;

function rootAgain(bench: Bench): Operations {
  const { profile, state } = bench.world;
  const there = state.images[onSlot(profile.rootPartition, state.active)];
  // patched by the same kit, it is as it was
  const broken = there?.broken === TOO_OLD ? TOO_OLD : null;
  return writeOne(bench, profile.rootPartition, { ...rooted(profile, bench.build), broken });
}
const otherKit = (bench: Bench): Operations =>
  writeOne(bench, bench.world.profile.rootPartition, rooted(bench.world.profile, bench.build));

/** What is done to the handset; null where it can't be done there. Those that no machine has are not in it. */
const DONE: Readonly<Partial<Record<RepairId, (bench: Bench) => Operations>>> = {
  wait: () => [{ do: 'finish-start' }],
  'kit-rests': ({ world: { profile } }) =>
    profile.restsModulesAfter === null
      ? null
      : Array.from({ length: profile.restsModulesAfter + 1 }, () => ({ do: 'finish-start' })),
  'stock-image': (bench) => writeOne(bench, bench.world.profile.rootPartition),
  'vendor-boot': (bench) => writeOne(bench, 'vendor_boot'),
  'root-again': rootAgain,
  'other-kit': otherKit,
  'select-again': (bench) => selecting(bench, bench.world.state.active),
  'other-slot': (bench) => selecting(bench, otherSlot(bench.world.state.active)),
  'whole-build': (bench) => writeAll(bench, bench.build),
  'newer-build': (bench) => writeAll(bench, newestAfter(bench.world.profile, bench.build)),
  erase: () => [{ do: 'enter-recovery' }, { do: 'wipe', kind: 'factory' }, ...START],
};

function operationsOf(context: PlanContext, world: World, repair: RepairId): Operations {
  const { profile } = world;
  const enter: HandsetOperation[] = profile.bootloaderWrites
    ? [{ do: 'enter-bootloader' }]
    : profile.hasDownload
      ? [{ do: 'enter-download' }]
      : [];
  const build = context.start.builds[context.start.active];
  return DONE[repair]?.({ context, world, build, enter }) ?? null;
}

/** Whether the handset starts afterwards, and nothing of its data is gone that the repair does not say. */
function brings(context: PlanContext, world: World, repair: RepairId): boolean {
  const operations = operationsOf(context, world, repair);
  if (operations === null) return false;
  let { state } = world;
  for (const operation of operations) {
    // it may be up before the last of them
    if (operation.do === 'finish-start' && state.mode === 'system') break;
    const done = operate(world.profile, state, operation);
    if (!done.ok) return false;
    ({ state } = done);
  }
  // what falls back to the other slot by itself has not mended this one
  const there = repair === 'other-slot' || state.running?.slot === context.start.active;
  return (
    there && state.mode === 'system' && (REPAIRS[repair].wipes || state.data.wipes === world.state.data.wipes)
  );
}

/** By repair the causes that it mends on this very handset, each played. */
export type Works = Readonly<Record<RepairId, readonly CauseId[]>>;

export function worksOn(context: PlanContext, causes: readonly CauseId[]): Works {
  const worlds = causes.flatMap((cause) => {
    const world = withFault(context, cause);
    return world ? [{ cause, world }] : [];
  });
  return Object.fromEntries(
    REPAIR_IDS.map((repair) => [
      repair,
      [
        ...REPAIRS[repair].mends,
        ...worlds.filter(({ world }) => brings(context, world, repair)).map(({ cause }) => cause),
      ],
    ]),
  ) as unknown as Works;
}

export interface Offered {
  readonly repair: RepairId;
  /** Chance that it brings the handset back, by what is believed. */
  readonly chance: number;
  readonly minutes: number;
  readonly wipes: boolean;
}

/** Repairs that can work, what costs least for its chance first; none that erases while another could do. */
export function repairsFor(
  believed: readonly Believed[],
  works: Works,
  tried: readonly RepairId[],
  barred: readonly RepairId[] = [],
): Offered[] {
  const chanceOf = (repair: RepairId) =>
    believed
      .filter(({ cause }) => works[repair].includes(cause))
      .reduce((sum, { chance }) => sum + chance, 0);
  const open = REPAIR_IDS.filter((repair) => repair !== 'seller')
    .filter((repair) => !tried.includes(repair) && !barred.includes(repair))
    .map((repair) => ({ repair, chance: chanceOf(repair), ...REPAIRS[repair] }));
  const cost = ({ minutes, risk, chance }: (typeof open)[number]) => (minutes + risk) / chance;
  const keeping = open.filter(({ wipes, chance }) => !wipes && chance > 0).sort((a, b) => cost(a) - cost(b));
  const likely = keeping.filter(({ chance }) => chance > LEAST_CHANCE);
  // what keeps the data is tried to the last of it, however unlikely, before anything erases
  const erasing = open.filter(({ wipes, chance }) => wipes && chance > LEAST_CHANCE);
  const offered = likely.length > 0 ? likely : erasing.length > 0 && keeping.length > 0 ? keeping : erasing;
  return offered.map(({ repair, chance, minutes, wipes }) => ({ repair, chance, minutes, wipes }));
}
const LEAST_CHANCE = 0.02;

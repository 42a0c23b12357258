import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Limits, PlanContext } from './context';
import { runsNow } from './context';

/*
 * What stands in the way of a lane: the nearest thing that, were it otherwise, would open it (docs/method.md,
 * "The planner"). Each is tried by planning once more as if it were otherwise.
 */

/** What a person can do about it from the page: change a limit or a wish, or bring something. */
export type Opens =
  | { readonly by: 'limit'; readonly limit: OpenLimit; readonly value: boolean }
  | { readonly by: 'package' | 'kit' | 'recovery' };
export type OpenLimit = Exclude<keyof Limits, 'modules' | 'modulesLimit' | 'install' | 'suppose'>;

export interface Relaxed {
  readonly reason: string;
  /** Null where nothing on the page changes it. */
  readonly opens: Opens | null;
  readonly relax: (context: PlanContext) => PlanContext;
  /** It changes what has to be reached, or what the steps come to, and not only what is refused on the way. */
  readonly ofTheGoal?: true;
}

const nameOf = (build: string) => splitFingerprint(build)?.id ?? build;

const set = (limit: OpenLimit, value: boolean): Opens => ({ by: 'limit', limit, value });
const bring = (by: 'package' | 'kit' | 'recovery'): Opens => ({ by });

type Relax = Relaxed['relax'];
const withContext =
  (change: Partial<PlanContext>): Relax =>
  (context) => ({ ...context, ...change });
const withLimits =
  (limits: Partial<PlanContext['limits']>): Relax =>
  (context) => ({ ...context, limits: { ...context.limits, ...limits } });
const withStart =
  (start: Partial<PlanContext['start']>): Relax =>
  (context) => ({ ...context, start: { ...context.start, ...start } });
const withProfile =
  (profile: Partial<PlanContext['profile']>): Relax =>
  (context) => ({ ...context, profile: { ...context.profile, ...profile } });

/** What the person said or has: they can change it today. */
function ofThePerson(context: PlanContext): (Relaxed | false)[] {
  const { limits, goal, kit, fullPackages, target } = context;
  const builds = [...new Set([runsNow(context), target])].filter((build) => !fullPackages.includes(build));
  return [
    ...builds.map((build) => ({
      reason: `No full package of ${nameOf(build)} is at hand.`,
      opens: bring('package'),
      relax: (one: PlanContext) => ({ ...one, fullPackages: [...one.fullPackages, build] }),
    })),
    limits.keepFuse && {
      reason: 'It would blow the warranty fuse, and that is to stay whole.',
      opens: set('keepFuse', false),
      relax: withLimits({ keepFuse: false }),
    },
    limits.seenFirst === true && {
      reason: 'It roots the new build before it was seen to start.',
      opens: set('seenFirst', false),
      relax: withLimits({ seenFirst: false }),
      ofTheGoal: true,
    },
    limits.imageBackup === true && {
      reason: 'It passes no recovery that could take an image of the data first.',
      opens: set('imageBackup', false),
      relax: withLimits({ imageBackup: false }),
      ofTheGoal: true,
    },
    limits.oneSlot === true && {
      reason: 'It changes the other slot, and only the one that runs may be changed.',
      opens: set('oneSlot', false),
      relax: withLimits({ oneSlot: false }),
    },
    kit === null && {
      reason: 'No kit supports this release and the partition that carries root.',
      opens: bring('kit'),
      relax: withContext({ kit: 'a kit' }),
    },
    context.profile.systemAsRoot &&
      context.kitChangesKernel === false && {
        reason:
          'An ordinary start of it passes boot’s ramdisk by, and this kit does not change that in the kernel.',
        opens: bring('kit'),
        relax: withContext({ kitChangesKernel: true }),
        ofTheGoal: true,
      },
    context.goal === 'install a package' &&
      !context.install && {
        reason: 'No install package is kept.',
        opens: bring('package'),
        relax: withContext({ install: { sha256: '', name: 'a package', writes: [] } }),
      },
    context.recovery === null &&
      goal === 'keep a recovery' && {
        reason: 'No recovery for this variant is at hand.',
        opens: bring('recovery'),
        relax: withContext({ recovery: { name: 'a recovery', opensUpTo: Number.MAX_SAFE_INTEGER } }),
      },
    !limits.computer &&
      limits.secondHandset !== true && {
        reason: 'It needs a computer.',
        opens: set('computer', true),
        relax: withLimits({ computer: true }),
      },
    !limits.wipeAllowed && {
      reason: 'It erases everything, and nothing may be erased.',
      opens: set('wipeAllowed', true),
      relax: withLimits({ wipeAllowed: true }),
    },
  ];
}

/** What the handset is: some of it can be waited for, some of it never changes. */
function ofTheHandset(context: PlanContext): (Relaxed | false)[] {
  const { start, profile, fuseKnown } = context;
  const { unlockSwitch } = start;
  return [
    start.locked &&
      unlockSwitch !== 'on' && {
        reason: `Its unlock switch is ${unlockSwitch}, so its bootloader stays locked.`,
        opens: null,
        relax: withStart({ unlockSwitch: 'on' }),
      },
    start.locked &&
      profile.unlockPath === 'none' && {
        reason: 'Its maker, carrier or country does not let it be unlocked.',
        opens: null,
        relax: withProfile({ unlockPath: 'command' }),
      },
    !fuseKnown && {
      reason: 'Its bootloader fuse was never read, and this writes a bootloader.',
      opens: null,
      relax: withContext({ fuseKnown: true }),
    },
    start.floors.fuse > 0 && {
      reason: 'The bootloader of that build is older than the fuse allows: it would never start again.',
      opens: null,
      relax: withStart({ floors: { ...start.floors, fuse: 0 } }),
    },
    profile.makerFloor !== null && {
      reason: 'That build is below the maker’s floor for writes.',
      opens: null,
      relax: withProfile({ makerFloor: null }),
    },
    start.snapshot !== 'none' && {
      reason: `An update is ${start.snapshot}; it has to end first.`,
      opens: null,
      // an update that waits has made its slot the one that is started
      relax: withStart({ snapshot: 'none', update: null, active: start.running?.slot ?? start.active }),
    },
    !profile.bootloaderWrites && {
      reason: 'Its bootloader writes nothing: it is written in download mode only.',
      opens: null,
      relax: withProfile({ bootloaderWrites: true }),
    },
    start.locked && {
      reason: 'Its bootloader is locked.',
      opens: null,
      relax: withStart({ locked: false }),
    },
  ];
}

/** The nearest first. */
export const relaxed = (context: PlanContext): Relaxed[] =>
  [...ofThePerson(context), ...ofTheHandset(context)].filter((one) => one !== false);

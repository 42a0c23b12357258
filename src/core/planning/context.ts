import type { HandsetProfile, HandsetState, ImageFacts } from '../handset/state';
import type { WholeBuild } from '../handset/operate-writes';
import type { Caution } from '../modules/switch-off';
import type { CauseId } from '../words/rescue';

/*
 * What a plan is made from (docs/method.md, "The planner"). Images are symbols here: what they are of, not
 * their bytes.
 */

export type GoalId =
  | 'first root'
  | 'root again'
  | 'monthly update'
  | 'major upgrade'
  | 'downgrade'
  | 'keep a recovery'
  | 'return to stock'
  | 'lock again'
  | 'root without unlocking'
  | 'repair'
  | 'prove root'
  | 'install a package';

export interface Limits {
  /** A computer or another host is at hand. */
  readonly computer: boolean;
  readonly wipeAllowed: boolean;
  /** Nothing may be written that blows the warranty fuse. */
  readonly keepFuse: boolean;
  /** The host is a second handset: every file is carried over to it first. */
  readonly secondHandset?: boolean;
  /** Only the slot that runs may be changed. */
  readonly oneSlot?: boolean;
  /** An image of the data is taken through a recovery before anything is changed. */
  readonly imageBackup?: boolean;
  /** What becomes of modules during an update; by chance where nothing is said. */
  readonly modules?: Caution;
  /**
   * The chance over which a module is off where they go off by chance; the plain limit where nothing is said.
   */
  readonly modulesLimit?: number;
  /** Images are patched on the handset and fetched back, not here. */
  readonly patchThere?: boolean;
  /** Images come patched, by a provider's own app, and are judged here. */
  readonly patchedElsewhere?: boolean;
  /** A new build is seen to start before it is rooted. */
  readonly seenFirst?: boolean;
  /** SHA-256 of the kept package that is installed from the running system; the newest where nothing is said. */
  readonly install?: string;
  /** What is taken to be wrong with it: a repair of a case is planned for exactly this. */
  readonly suppose?: CauseId;
}

/** What nobody has read, and a plan depends on: it is found out before the first change. */
export const UNKNOWNS = [
  'switch',
  'root',
  'recovery-home',
  'fuse',
  'battery',
  'snapshot',
  'other-slot',
] as const;
export type Unknown = (typeof UNKNOWNS)[number];

/** How much each thing counts, in minutes. */
export interface Weights {
  readonly wipe: number;
  readonly minuteWithoutRoot: number;
  readonly restart: number;
  /** A restart offer that has to be refused. */
  readonly offer: number;
  readonly fileTrip: number;
  readonly download: number;
  readonly write: number;
}
export const PLAIN_WEIGHTS: Weights = {
  wipe: 480,
  minuteWithoutRoot: 0.5,
  restart: 2,
  offer: 3,
  fileTrip: 3,
  download: 5,
  write: 1,
};

export interface PlanContext {
  readonly profile: HandsetProfile;
  readonly start: HandsetState;
  readonly goal: GoalId;
  /** The build that has to run in the end; the installed one where the goal asks for none. */
  readonly target: string;
  /** Another build that will do as well: an update waits, and nobody said which of the two is wanted. */
  readonly orTarget?: string;
  /** Null where no kit supports the target's release and the root partition. */
  readonly kit: string | null;
  /** Whether it changes the kernel's choice of ramdisk; where nobody says so, its root is taken to start. */
  readonly kitChangesKernel?: boolean;
  /** Custom recovery for this variant. */
  readonly recovery: { readonly name: string; readonly opensUpTo: number } | null;
  /** Builds of which a full package can be had, and those that come as an update from the installed one. */
  readonly fullPackages: readonly string[];
  readonly incrementalTo: readonly string[];
  /** What is in the vault already: `stock BUILD`, `patched BUILD`. */
  readonly kept: readonly string[];
  readonly limits: Limits;
  readonly weights: Weights;
  /** Where its recovery lives was read; while it was not, no recovery is written. */
  readonly recoveryHomeRead: boolean;
  /**
   * The bootloader's fuse was read, or the wanted build is known not to go below it; else nothing that writes a
   * bootloader is a way.
   */
  readonly fuseKnown: boolean;
  /**
   * Minutes an action takes, expected and slow, as the person's own log has it; the action's own where it
   * says nothing.
   */
  readonly pace: Readonly<Record<string, readonly [number, number]>>;
  /** What a plan depends on and nobody has read, in the order of `UNKNOWNS`. */
  readonly unknown?: readonly Unknown[];
  /**
   * Where a recovery that shares its partition with other things can get the stock image that it is put into: out
   * of a package, or root reads it out of the slot that waits as well; where it is missing, from nowhere.
   */
  readonly rebuildsRecovery?: 'from a package' | 'from the slot too';
  /** Modules to switch off before the update; where it is missing, any may be. */
  readonly modulesOff?: readonly string[];
  /**
   * The build whose bootloader is put in for a while, because it takes what the installed one shuts out: its
   * package can be had, and its level is known not to be below the fuse.
   */
  readonly looseBuild?: string;
  /** What is installed from the running system; null where no package is kept. */
  readonly install?: InstallPackage | null;
  /** Builds whose root image goes to both slots: their package's own list writes both, and both hold them. */
  readonly bothSlots?: readonly string[];
}

/** A package that root installs from inside: what it puts on the slot that runs. */
export interface InstallPackage {
  readonly sha256: string;
  readonly name: string;
  readonly writes: readonly { readonly partition: string; readonly image: ImageFacts }[];
}

/** The handset, and what was made on the computer. */
export interface PlanState {
  readonly handset: HandsetState;
  /** Sorted, so that it is part of a key. */
  readonly made: readonly string[];
}

export const NO_RECOVERY = 'no recovery is made for this variant';

/** Nothing but the recovery lies in its partition. */
export const hasOwnPartition = ({ recoveryHome }: Pick<HandsetProfile, 'recoveryHome'>) =>
  recoveryHome === 'recovery';

/** Root and recovery live in one ramdisk. */
export const sharesWithRoot = ({ recoveryHome, rootPartition }: HandsetProfile) =>
  recoveryHome === rootPartition && recoveryHome !== 'recovery';

/** Why no whole recovery image can be written on this handset; null where one can. */
export function noRecoveryPlace({
  profile,
  recoveryHomeRead,
  rebuildsRecovery,
}: Pick<PlanContext, 'profile' | 'recoveryHomeRead' | 'rebuildsRecovery'>): string | null {
  if (!recoveryHomeRead) return 'where its recovery lives was never read';
  return hasOwnPartition(profile) || rebuildsRecovery !== undefined
    ? null
    : `its recovery lives in ${profile.recoveryHome}, with other things in it, and a whole recovery image is never written over that`;
}

/** A bootloader starts images of boot from memory: a recovery that is a part of vendor_boot is none. */
export const onlyBootFromMemory = ({
  profile,
  recoveryHomeRead,
}: Pick<PlanContext, 'profile' | 'recoveryHomeRead'>) =>
  !recoveryHomeRead
    ? 'where its recovery lives was never read'
    : profile.recoveryHome === 'vendor_boot'
      ? 'its recovery lives in vendor_boot, and its bootloader starts images of boot only'
      : null;

/**
 * The build that runs at the beginning; where nothing runs, the one that would. An update that waits has made
 * another slot the active one.
 */
export const runsNow = ({ start }: Pick<PlanContext, 'start'>) =>
  start.running?.build ?? start.builds[start.active];

const SYMBOL_BYTES = 1;

export function stockImage(partition: string, build: string): ImageFacts {
  return {
    sha256: `stock ${partition} ${build}`,
    sizeBytes: SYMBOL_BYTES,
    broken: null,
    fingerprint: build,
    patchedBy: null,
    digestValid: true,
  };
}

export function patchedImage(
  { profile, kit, kitChangesKernel = true }: Pick<PlanContext, 'profile' | 'kit' | 'kitChangesKernel'>,
  build: string,
): ImageFacts {
  const stock = stockImage(profile.rootPartition, build);
  return {
    ...stock,
    sha256: `patched ${build}`,
    digestValid: false,
    patchedBy: { kit: kit ?? 'no kit', stockSha256: stock.sha256 },
    ...(profile.systemAsRoot && kitChangesKernel ? { choosesRamdisk: true } : {}),
  };
}

/** Verified-boot data of a build whose flags let a changed image start. */
export const flaggedVbmeta = (build: string): ImageFacts => ({
  ...stockImage('vbmeta', build),
  sha256: `flagged vbmeta ${build}`,
  digestValid: false,
  flags: VERIFY_NOTHING,
});
/** Neither the tree of hashes nor what is verified by it is looked at (docs/formats.md, "Verified boot"). */
const VERIFY_NOTHING = 3;

export function customRecovery(
  { profile, recovery }: Pick<PlanContext, 'profile' | 'recovery'>,
  build: string,
): ImageFacts {
  return {
    ...stockImage(profile.recoveryHome, build),
    sha256: `${recovery?.name} for ${build}`,
    digestValid: false,
    recovery,
  };
}

/**
 * A whole build as its package holds it; with the patched image in place of the stock one where that is
 * wanted.
 */
export function wholeBuild(context: PlanContext, build: string, patched: boolean): WholeBuild {
  const images: Record<string, ImageFacts> = {};
  for (const partition of Object.keys(context.profile.partitionBytes))
    images[partition] = stockImage(partition, build);
  if (patched) images[context.profile.rootPartition] = patchedImage(context, build);
  if (patched && context.profile.needsVbmetaFlags) images['vbmeta'] = flaggedVbmeta(build);
  return { build, images };
}

/** Made by putting an older bootloader in, and by putting the installed build's own back. */
export const BOOTLOADER_DOWN = 'older bootloader';
export const BOOTLOADER_BACK = 'own bootloader again';

/** Made by going into a recovery of one's own that lies on disk. */
export const RECOVERY_OPENED = 'recovery opened';

export const hasMade = (state: PlanState, what: string) => state.made.includes(what);
export function withMade(state: PlanState, ...what: readonly string[]): PlanState {
  const fresh = what.filter((one) => !state.made.includes(one));
  return fresh.length === 0 ? state : { ...state, made: [...state.made, ...fresh].sort() };
}

import { buildFacts, onSlot } from '../handset/builds';
import type { HandsetOperation } from '../handset/operate';
import { operate } from '../handset/operate';
import type { ImageFacts, Slot } from '../handset/state';
import { fuseCause } from '../handset/tamper-record';
import type { PlanContext, PlanState } from './context';
import {
  flaggedVbmeta,
  hasMade,
  hasOwnPartition,
  runsNow,
  sharesWithRoot,
  stockImage,
  withMade,
} from './context';

/*
 * What actions of a plan are built from: operations of the machine with what they need, how long they take,
 * and who does them.
 */

export interface ActionFacts {
  readonly title: string;
  /** Expected and slow, in minutes. */
  readonly minutes: readonly [number, number];
  /** Risk as minutes that its failing costs, times how often it fails; a stated prior. */
  readonly risk: number;
  readonly who: 'computer' | 'handset' | 'link' | 'root';
  readonly writes: boolean;
  readonly offers: number;
  readonly fileTrips: number;
  readonly downloads: number;
}

export type Applied =
  | { readonly ok: true; readonly state: PlanState }
  | {
      readonly ok: false;
      readonly reason: string;
      /** The handset itself refuses: nothing that could be made on the computer changes that. */
      readonly byHandset?: true;
    };
export type Effect = (context: PlanContext, state: PlanState) => readonly HandsetOperation[] | string;

/** A computer, or a second handset in its place. */
export const hasHost = ({ limits }: Pick<PlanContext, 'limits'>) =>
  limits.computer || limits.secondHandset === true;

const no = (reason: string) => ({ ok: false as const, reason });
const yes = (state: PlanState) => ({ ok: true as const, state });

/** An action that operations of the machine make; a text instead of operations says why not. */
export function onHandset(
  facts: Partial<ActionFacts> & Pick<ActionFacts, 'title' | 'minutes'>,
  effect: Effect,
  makes: (context: PlanContext, state: PlanState) => readonly string[] = () => [],
) {
  return {
    risk: 0,
    who: 'link' as const,
    writes: false,
    offers: 0,
    fileTrips: 0,
    downloads: 0,
    ...facts,
    apply: (context: PlanContext, state: PlanState): Applied => {
      let { handset } = state;
      const operations = effect(context, state);
      if (typeof operations === 'string') return no(operations);
      for (const operation of operations) {
        const result = operate(context.profile, handset, operation);
        if (!result.ok) return { ...no(result.reason), byHandset: true };
        handset = result.state;
      }
      return yes(withMade({ ...state, handset }, ...makes(context, state)));
    },
  };
}

/** An action on the computer: it needs what was made before and makes something. */
export function onComputer(
  facts: Partial<ActionFacts> & Pick<ActionFacts, 'title' | 'minutes'>,
  makes: (context: PlanContext, state: PlanState) => { readonly make: string | readonly string[] } | string,
) {
  return {
    risk: 0,
    who: 'computer' as const,
    writes: false,
    offers: 0,
    fileTrips: 0,
    downloads: 0,
    ...facts,
    apply: (context: PlanContext, state: PlanState): Applied => {
      if (!hasHost(context)) return no('no computer is at hand');
      const made = makes(context, state);
      return typeof made === 'string' ? no(made) : yes(withMade(state, ...[made.make].flat()));
    },
  };
}

export const buildAtActive = ({ handset }: PlanState) => handset.builds[handset.active];
const belowFuse = ({ profile }: PlanContext, { handset }: PlanState, build: string) =>
  buildFacts(profile, build).bootloader < handset.floors.fuse;
/** Single images go in from the bootloader; what root writes from inside are actions of their own. */
export const fromBootloader = ({ handset }: PlanState, operations: readonly HandsetOperation[] | string) =>
  typeof operations === 'string' || handset.mode === 'bootloader'
    ? operations
    : 'it is written from the bootloader';

/** Erasing, or a second update, over one that waits or merges loses the new system: that gate can't be overridden. */
export const overAnUpdate = ({ handset }: PlanState): string | null =>
  handset.snapshot === 'none' ? null : `an update is ${handset.snapshot}`;

/** What else has to be written so that a changed image starts: the flags of the verified-boot data. */
export function flagsFor(
  { profile }: PlanContext,
  { handset }: PlanState,
  slot: Slot,
  build: string,
): readonly HandsetOperation[] {
  const partition = onSlot('vbmeta', slot);
  return profile.needsVbmetaFlags && (handset.images[partition]?.flags ?? 0) === 0
    ? [{ do: 'write', partition, image: flaggedVbmeta(build) }]
    : [];
}

/** Those that a recovery needs: an ordinary start does not look at a partition of its own. */
export const recoveryFlagsFor = (
  context: PlanContext,
  state: PlanState,
  slot: Slot,
  build: string,
): readonly HandsetOperation[] =>
  context.profile.recoveryHome === 'recovery' ? [] : flagsFor(context, state, slot, build);

/** The verified-boot data of a build comes out of its package, or root reads it from inside. */
export const needFlags = (
  context: PlanContext,
  state: PlanState,
  slot: Slot,
  build: string,
): string | null =>
  flagsFor(context, state, slot, build).length === 0 ||
  state.handset.mode === 'system' ||
  hasMade(state, `package ${build}`)
    ? null
    : 'the flags of its verified-boot data have to be set, and the package that holds it is not open';

/**
 * The maker's verified-boot data again, where its flags were set. A repair goes without it where the package is
 * not open; what goes back to stock does not.
 */
export function flagsBack(
  { goal }: PlanContext,
  state: PlanState,
  slot: Slot,
  build: string,
): readonly HandsetOperation[] | string {
  const partition = onSlot('vbmeta', slot);
  if ((state.handset.images[partition]?.flags ?? 0) === 0) return [];
  if (hasMade(state, `package ${build}`))
    return [{ do: 'write', partition, image: stockImage('vbmeta', build) }];
  return goal === 'repair' ? [] : 'its package is not open, and the flags of its verified-boot data are set';
}

/** The fuse has to stay whole, and an image that is not the maker's would blow it. */
export const blowsFuse = ({ limits, profile }: PlanContext): boolean =>
  limits.keepFuse && !['nothing', 'unlocking'].includes(fuseCause(profile));

/** A build whose bootloader is below the fuse is never written: that gate can't be overridden. */
const BELOW_FUSE = 'its bootloader is below the fuse: it would never start again';
/**
 * No image of another build is ever written to a slot.
 * @param there what lies where it goes: a recovery in it has to be in the patched image too
 */
export function needPatched(
  context: PlanContext,
  state: PlanState,
  build: string,
  there?: ImageFacts,
): string | null {
  if (blowsFuse(context)) return 'writing a patched image blows the fuse';
  if (keepsRecovery(context, there))
    return hasMade(state, patchedWithRecovery(build))
      ? null
      : 'the image that holds its recovery too was not patched';
  return hasMade(state, `patched ${build}`) ? null : 'its patched image was not made';
}

/** What is made on the computer of a recovery that shares its partition. */
export const rebuiltRecovery = (build: string) => `recovery ${build}`;
export const patchedWithRecovery = (build: string) => `patched-with-recovery ${build}`;

const keepsRecovery = ({ profile, rebuildsRecovery }: PlanContext, there: ImageFacts | undefined): boolean =>
  sharesWithRoot(profile) && rebuildsRecovery !== undefined && (there?.recovery ?? null) !== null;

/** Every image of a build, for those who write all of it. */
export const needWhole = (state: PlanState, build: string) =>
  hasMade(state, `whole ${build}`) ? null : 'not every image of it is in the vault';

/** What is installed now has to be able to come back; a repair is never held up by that. */
export function needWayBack(context: PlanContext, state: PlanState): string | null {
  const { goal, fullPackages } = context;
  const installed = runsNow(context);
  const there = hasMade(state, `stock ${installed}`) || !fullPackages.includes(installed);
  return goal === 'repair' || there ? null : 'the stock image of the installed build is not in the vault';
}

/**
 * That gate can't be overridden: a bootloader below the fuse never starts again, and what was never read may
 * be above.
 */
export function belowOrUnknown(context: PlanContext, state: PlanState): string | null {
  if (!context.fuseKnown) return 'its bootloader fuse was never read, and this writes a bootloader';
  return belowFuse(context, state, context.target) ? BELOW_FUSE : null;
}

/** Where recovery shares root's partition, the one stock image is that of both. */
export const hasStockRecovery = ({ profile }: PlanContext, state: PlanState, build: string): boolean =>
  hasMade(
    state,
    profile.recoveryHome === profile.rootPartition ? `stock ${build}` : `stock recovery ${build}`,
  );

/** A recovery that shares its partition goes into this build's stock image, so that has to be there. */
export const needRecoveryStock = (context: PlanContext, state: PlanState, build: string): string | null =>
  hasOwnPartition(context.profile) || hasStockRecovery(context, state, build)
    ? null
    : `the stock ${context.profile.recoveryHome} that it is put into is not in the vault`;

/** What is written where a recovery shares its partition. */
export const needRebuilt = (context: PlanContext, state: PlanState, build: string): string | null =>
  hasOwnPartition(context.profile) || hasMade(state, rebuiltRecovery(build))
    ? null
    : `it was not put into the stock ${context.profile.recoveryHome} of this build`;

/** Where root and a recovery share a ramdisk, root goes into the image that holds the recovery, and both stay. */
export function withRecoveryThere(
  context: PlanContext,
  there: ImageFacts | undefined,
  image: ImageFacts,
): ImageFacts {
  const recovery = there?.recovery ?? null;
  return keepsRecovery(context, there) && recovery
    ? { ...image, sha256: `${image.sha256} with ${recovery.name}`, recovery }
    : image;
}

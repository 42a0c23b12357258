import type { ObservedMode, ObservedStep } from '../observe/expectation';
import type { SlipId } from '../planning/slips';
import type { ClaimId } from '../words/claims';
import type { GateId } from '../words/gates';
import type { What } from '../words/observe';
import type { StepKey } from './step-key';

/* What can be said of a step: what it writes, which gates stand before it, and what else follows from it. */

export interface Writes {
  readonly what: 'root' | 'recovery' | 'bootloader' | 'whole build' | 'package';
  /** Of a handset with two slots: the one that the step is about, the one that does not run, or both. */
  readonly slot: 'its own' | 'the other' | 'both';
  /**
   * Image by image out of the vault: with the patched one in the place of its stock image or without it, and
   * whether data is erased.
   */
  readonly parts?: { readonly patched: boolean; readonly wipes: boolean };
}

/** A build that a step is about: the one on its slot when it begins, or the one that runs in the end. */
export type OfBuild = 'its build' | 'the target';

/** The one image of the vault that a step sends or puts. */
export interface SentImage {
  readonly what: 'patched' | 'stock' | 'stock recovery' | 'stock bootloader' | 'own recovery';
  readonly of: OfBuild;
}

/** What of a build the vault or the shelf of packages holds when a step is over, without anybody's doing. */
export interface SettledBy {
  readonly what:
    | 'package'
    | 'stock'
    | 'stock recovery'
    | 'bootloader'
    | 'every image'
    | 'rebuilt recovery'
    | 'patched'
    | 'patched with recovery';
  readonly of: OfBuild;
}

/** What is to be seen when a step went as it should (docs/method.md, "Expectation"). */
export type Expectation =
  /** The partitions that it writes hold what it sent, read back. */
  | { readonly see: 'partition'; readonly holds: 'its image' | 'every image of the build' }
  /** An update waits for its start, on a handset with two slots on the one that does not run. */
  | { readonly see: 'update'; readonly waits: true }
  /** The next start runs the build that the round brings. */
  | { readonly see: 'build'; readonly after: 'the next start' };

/** What shows from outside that a step went as it should, whoever did it. */
export interface Shown {
  readonly as: ObservedStep;
  /** Where the handset is then, or where the step works. */
  readonly mode?: ObservedMode;
  readonly lock?: 'unlocked' | 'locked';
  /** The build that runs then. */
  readonly build?: OfBuild;
  /** The slot that runs, or is selected, then; of a step that writes, the one that it writes to counts. */
  readonly slot?: 'its own' | 'the other';
  /** The partition that carries root is what it is about, though it does not write it. */
  readonly root?: true;
  /** The image that it is about, where it does not send one. */
  readonly image?: SentImage;
  /** Has to be seen besides what every step of its kind needs. */
  readonly also?: readonly What[];
}

interface Marks {
  /** Readings of the handset from before and after it speak of different moments. */
  readonly changes: boolean;
  /** Done on this page, never by word. */
  readonly here?: true;
  /** Done in another room than the round's. */
  readonly room?: 'firmware' | 'images';
  /**
   * From it on nothing may restart until a step that starts, or one that lets go: why, and what a restart
   * would cost.
   */
  readonly holds?: { readonly why: string; readonly cost: string };
  /** It ends a hold without a start, in these words. */
  readonly letsGo?: string;
  /** It is about the slot that does not run, and the build that lies there. */
  readonly onOther?: true;
  /** It is about the build whose bootloader is put in for a while. */
  readonly ofOlder?: true;
  /** It starts the system. */
  readonly starts?: true;
  /** What runs is read anew by it, so a restart before it changes nothing. */
  readonly readsAnew?: true;
  /** What it found out may ask for another plan. */
  readonly plansAnew?: true;
  /** Root runs after it from memory, or lies on disk again. */
  readonly root?: 'from memory' | 'lasting';
  readonly image?: SentImage;
  readonly settledBy?: SettledBy;
  /** It needs every image of its build, not only the one that carries root. */
  readonly wholeBuild?: true;
  /** It puts images into the vault. */
  readonly keeps?: 'one image' | 'every image';
  /** Chances of the usual slips. */
  readonly slips?: readonly SlipId[];
  /** It touches the handset for good, though it writes no partition. */
  readonly touches?: true;
  /** The handset is seen listed outside its system. */
  readonly lists?: true;
  /** What a person can show of it; where absent only their word tells. */
  readonly shown?: Shown | null;
  /** A word does not end it: it has to be shown. */
  readonly onlyShown?: true;
  /** The handset can be sent there over the link, without its keys. */
  readonly reachedByLink?: 'bootloader' | 'recovery';
  /** The handset only lies there: for the person, a backup, its maker, or a merge behind a dark screen. */
  readonly waits?: true;
  /** Root asks on the handset while it runs. */
  readonly asksForRoot?: true;
  /** What its evidence speaks for when the round is signed off. */
  readonly proves?: readonly ClaimId[];
  /** What it changes for a while, and the steps that undo it. */
  readonly opens?: { readonly what: string; readonly closedBy: readonly StepKey[] };
}

/**
 * A step that writes has gates, says what is to be seen after it, and what it writes is in doubt when it is
 * cut short: without these it is none.
 */
interface WritingDeed extends Marks {
  readonly writes: Writes;
  readonly gates: readonly [GateId, ...GateId[]];
  readonly expects: readonly [Expectation, ...Expectation[]];
  /** Null where nothing prints it: the handset shows it, and only the person's word tells. */
  readonly shown: Shown | null;
  readonly changes: true;
}
interface QuietDeed extends Marks {
  readonly writes: null;
  readonly gates: readonly GateId[];
  readonly expects?: undefined;
}
export type Deed = WritingDeed | QuietDeed;

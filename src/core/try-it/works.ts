import type { GoalId, Limits } from '../planning/context';

/*
 * The pieces of work that the demo can be set to the beginning of. Each is one that people do from start to end;
 * what a page says of it is one sentence.
 */

export interface TryIt {
  readonly n: number;
  readonly sentence: string;
  readonly goal: GoalId;
  /** The lane that it is about; others may lead there too. */
  readonly lane: string;
  readonly limits: Limits;
}

const PLAIN: Limits = { computer: true, wipeAllowed: false, keepFuse: false };
const WIPES: Limits = { ...PLAIN, wipeAllowed: true };

const one = (n: number, goal: GoalId, lane: string, sentence: string, limits: Limits = PLAIN): TryIt => ({
  n,
  goal,
  lane,
  sentence,
  limits,
});

/** In the order of their numbers. */
export const TRY_IT: readonly TryIt[] = [
  one(
    1,
    'monthly update',
    'firmware-set-patched',
    'Update a rooted tablet with its firmware set, root inside it, data kept.',
  ),
  one(
    2,
    'first root',
    'older-bootloader-and-back',
    'Put an older bootloader in for a while, root through a recovery, and put the own one back.',
  ),
  one(
    3,
    'first root',
    'through-the-recovery',
    'Unlock a tablet by command, write a recovery, and root it through that.',
    WIPES,
  ),
  one(
    4,
    'first root',
    'through-the-recovery',
    'Take an image of the data through a recovery before root goes in.',
    { ...PLAIN, imageBackup: true },
  ),
  one(
    5,
    'monthly update',
    'update-in-place-other-slot',
    'Take an update on the handset itself, and keep root through its one restart.',
  ),
  one(6, 'first root', 'one-image-once', 'Root a tablet with a boot image that somebody else made ready.', {
    ...PLAIN,
    patchedElsewhere: true,
  }),
  one(
    7,
    'first root',
    'start-once-make-lasting',
    'Try a patched boot image from memory before anything is written.',
  ),
  one(8, 'first root', 'one-image-once', 'Get an unlock code by mail, unlock, and root.', WIPES),
  one(
    9,
    'root without unlocking',
    'in-system-root',
    'Root a phone that stays locked, for as long as it runs.',
  ),
  one(10, 'first root', 'one-image-once', 'Put a kernel package in, with the battery in sight.'),
  one(
    11,
    'first root',
    'firmware-set-patched',
    'No computer: unlock with keys, and write the set from a second handset.',
    { ...WIPES, computer: false, secondHandset: true },
  ),
  one(
    12,
    'keep a recovery',
    'recovery-through-root',
    'Write a recovery from inside a rooted tablet, the maker’s own kept.',
  ),
  one(
    13,
    'monthly update',
    'whole-build-seen-then-root',
    'Write a whole new build, see it start, then root it again.',
  ),
  one(
    14,
    'major upgrade',
    'recovery-started-once',
    'Move to a new build with all of it, and let a recovery that is started once install root.',
  ),
  one(
    15,
    'return to stock',
    'stock-images-back',
    'Bring a rooted phone back to stock, and prove that no root is left.',
  ),
  one(
    16,
    'downgrade',
    'sideload',
    'Go down to an older build along the one way that its maker lets in.',
    WIPES,
  ),
  one(
    17,
    'root without unlocking',
    'in-system-root',
    'Root a phone that stays locked, so that it lasts, its fuse whole.',
    { ...PLAIN, keepFuse: true },
  ),
  one(
    18,
    'monthly update',
    'whole-build-patched',
    'Write a whole new build with root in it before its first start.',
  ),
  one(
    19,
    'install a package',
    'package-inside',
    'Put a recovery’s package in from a rooted tablet, what it overwrites read out first.',
  ),
  one(
    20,
    'first root',
    'one-image-once',
    'See before the wipe whether a first root will work, then do it.',
    WIPES,
  ),
];

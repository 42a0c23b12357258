/* Which partition's ramdisk carries root, and why (docs/method.md, "Which partition carries root"). */

export type RootWitness = 'image' | 'package' | 'handset' | 'rule of thumb';

/** What one source says; null where it rules root out. */
export interface RootOpinion {
  readonly witness: RootWitness;
  readonly partition: string | null;
  readonly reason: string;
}

export interface RootPartition {
  readonly partition: string | null;
  readonly reason: string;
  /** Evidence was read and agrees with itself, or only the rule of thumb was used. */
  readonly sure: boolean;
  readonly opinions: readonly RootOpinion[];
  /** Whether all that speak say the same; a disagreement stops a round before its write. */
  readonly agree: boolean;
  /**
   * Root sits in recovery: it is there only when the handset is started with that key chord, and an ordinary
   * start is not "lost".
   */
  readonly recoveryOnly: boolean;
}

/**
 * A stock image of the installed build, or a member of its package. `hasRamdisk` is null where it was not
 * looked into.
 */
export interface RamdiskWitness {
  readonly partition: string;
  readonly hasRamdisk: boolean | null;
}

export interface RootPartitionInput {
  /** Partitions the handset's bootloader names, without slots. */
  readonly partitions: readonly string[];
  readonly firstApiLevel: number | null;
  /** Images of the installed build in the vault. */
  readonly images?: readonly RamdiskWitness[];
  /** Images that a package of the installed build holds. */
  readonly packaged?: readonly RamdiskWitness[];
}

const LAUNCHED_WITH_INIT_BOOT = 33;

/**
 * What a set of images says, in the order of the rule: init_boot, else boot, else recovery, each with a
 * ramdisk, else none.
 */
function ofImages(witness: RootWitness, images: readonly RamdiskWitness[]): RootOpinion | null {
  const find = (partition: string) => images.find((image) => image.partition === partition);
  const [initBoot, boot, recovery] = [find('init_boot'), find('boot'), find('recovery')];
  const say = (partition: string | null, reason: string): RootOpinion => ({ witness, partition, reason });
  const subject = witness === 'image' ? 'The stock image' : 'The package';
  if (initBoot && initBoot.hasRamdisk !== false)
    return say(
      'init_boot',
      `${subject} ${witness === 'image' ? 'of init_boot has a ramdisk' : 'holds init_boot'}.`,
    );
  if (boot?.hasRamdisk === true)
    return say('boot', `${subject} of boot has a ramdisk, and there is no init_boot.`);
  if (boot?.hasRamdisk === false && recovery && recovery.hasRamdisk !== false)
    return say(
      'recovery',
      'boot has no ramdisk and there is no init_boot, so only recovery’s ramdisk is left.',
    );
  if (boot?.hasRamdisk === false && recovery?.hasRamdisk === false)
    return say(null, 'Neither init_boot, boot nor recovery has a ramdisk: this method cannot work here.');
  // a package that lists boot and no init_boot says where it is not, and not yet that boot carries one
  if (witness === 'package' && boot && boot.hasRamdisk === null && images.length > 1)
    return say('boot', 'The package holds boot and no init_boot.');
  return null;
}

function ofHandset(partitions: readonly string[]): RootOpinion | null {
  if (partitions.includes('init_boot'))
    return {
      witness: 'handset',
      partition: 'init_boot',
      reason: 'Its bootloader names an init_boot partition.',
    };
  // only a list that names boot is long enough to miss init_boot from
  if (partitions.includes('boot'))
    return { witness: 'handset', partition: 'boot', reason: 'Its bootloader names boot and no init_boot.' };
  return null;
}

function ofRule(firstApiLevel: number | null): RootOpinion | null {
  if (firstApiLevel === null) return null;
  return firstApiLevel >= LAUNCHED_WITH_INIT_BOOT
    ? {
        witness: 'rule of thumb',
        partition: 'init_boot',
        reason: `Launched with platform level ${firstApiLevel}: by rule of thumb init_boot.`,
      }
    : {
        witness: 'rule of thumb',
        partition: 'boot',
        reason: `Launched with platform level ${firstApiLevel}, before init_boot: by rule of thumb boot.`,
      };
}

const samePartition = (opinion: RootOpinion, first: RootOpinion) =>
  opinion.partition === first.partition || (first.partition === 'recovery' && opinion.partition === 'boot');

/**
 * Whether everything but the rule of thumb says the same; where it does, a person may go on against the rule,
 * with a reason.
 */
const evidenceAgrees = (opinions: readonly RootOpinion[], first: RootOpinion) =>
  opinions.every((opinion) => opinion.witness === 'rule of thumb' || samePartition(opinion, first));

/**
 * Evidence before rules of thumb: an image that was looked into, then the package, then the handset's own
 * answer, then the launch level.
 */
export function rootPartitionOf({
  partitions,
  firstApiLevel,
  images = [],
  packaged = [],
}: RootPartitionInput): RootPartition {
  const opinions = [
    ofImages('image', images),
    ofImages('package', packaged),
    ofHandset(partitions),
    ofRule(firstApiLevel),
  ].filter((opinion): opinion is RootOpinion => opinion !== null);
  const first = opinions[0];
  if (!first) {
    const reason = 'Neither its partitions nor the release it was launched with are known.';
    return { partition: null, reason, sure: false, opinions, agree: true, recoveryOnly: false };
  }
  // a partition named recovery is the last resort of the evidence; what names boot by absence alone does not
  // contradict it
  const agree = opinions.every((opinion) => samePartition(opinion, first));
  return {
    partition: first.partition,
    reason: first.reason,
    sure: first.witness !== 'rule of thumb' && evidenceAgrees(opinions, first),
    opinions,
    agree,
    recoveryOnly: first.partition === 'recovery',
  };
}

export interface RecoveryHome {
  readonly home: 'own partition' | 'boot' | 'vendor_boot' | null;
  readonly reason: string;
  /** What writing the image that carries root does to the recovery, and what an update does. */
  readonly onWrite: string;
  readonly onUpdate: string;
  /** Where recovery and root share a ramdisk, recovery goes in before root. */
  readonly recoveryFirst: boolean;
}

export interface RecoveryHomeInput {
  /** As the handset itself names them; empty where it never did, which says nothing of what there is not. */
  readonly partitions: readonly string[];
  /** Partitions that packages of this build hold images of. */
  readonly packaged: readonly string[];
  readonly images: readonly RamdiskWitness[];
  /** Kinds of the ramdisks in this build's vendor_boot; empty where it was not looked into. */
  readonly vendorRamdisks: readonly string[];
  readonly slotCount: number | null;
  readonly rootPartition: string | null;
}

/** Where the recovery lives, hence what writes and updates do to it. */
export function recoveryHomeOf({
  partitions,
  packaged,
  images,
  vendorRamdisks,
  slotCount,
  rootPartition,
}: RecoveryHomeInput): RecoveryHome {
  const named = [...partitions, ...packaged, ...images.map((image) => image.partition)];
  const update = 'An update writes its own stock recovery over it.';
  if (named.includes('recovery')) {
    return {
      home: 'own partition',
      reason: 'It has a recovery partition.',
      onWrite:
        rootPartition === 'recovery'
          ? 'Root and recovery share this image: writing one overwrites the other.'
          : `Writing ${rootPartition ?? 'the image that carries root'} leaves it alone.`,
      onUpdate:
        slotCount === 1 ? `${update} Some systems also put stock recovery back at their next start.` : update,
      recoveryFirst: rootPartition === 'recovery',
    };
  }
  if (vendorRamdisks.includes('recovery')) {
    return {
      home: 'vendor_boot',
      reason: 'This build’s vendor_boot holds a recovery ramdisk.',
      onWrite: `Writing ${rootPartition ?? 'the image that carries root'} leaves it alone. Only the recovery fragment is replaced, over this build’s vendor_boot.`,
      onUpdate: 'An update writes its own vendor_boot, which replaces the recovery.',
      recoveryFirst: false,
    };
  }
  const inBoot = images.some((image) => image.partition === 'boot' && image.hasRamdisk === true);
  // that there is no partition of that name is only known from one who named them all
  if (inBoot && partitions.length > 0) {
    const shared = rootPartition === 'boot';
    return {
      home: 'boot',
      reason: 'boot has a ramdisk, and there is no recovery partition.',
      onWrite: shared
        ? 'Root and recovery share boot’s ramdisk: writing boot overwrites both.'
        : 'Writing boot overwrites it.',
      onUpdate: 'An update writes its own boot, which replaces the recovery.',
      recoveryFirst: shared,
    };
  }
  const reason = inBoot
    ? 'Whether it has a recovery partition was never read: paste its bootloader variables.'
    : 'No image that was looked into holds one.';
  return { home: null, reason, onWrite: 'Not known.', onUpdate: 'Not known.', recoveryFirst: false };
}

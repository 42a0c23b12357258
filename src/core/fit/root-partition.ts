import type { OnRootWrite, OnUpdate, RecoveryHomeSays, RootSays } from '../words/root';

/* Which partition's ramdisk carries root, and why (docs/method.md, "Which partition carries root"). */

export type RootWitness = 'image' | 'package' | 'handset' | 'rule of thumb';

/** What one source says; null where it rules root out. */
export interface RootOpinion {
  readonly witness: RootWitness;
  readonly partition: string | null;
  readonly because: RootSays;
}

export interface RootPartition {
  readonly partition: string | null;
  readonly because: RootSays;
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
function ofImages(witness: 'image' | 'package', images: readonly RamdiskWitness[]): RootOpinion | null {
  const find = (partition: string) => images.find((image) => image.partition === partition);
  const say = (partition: string | null, because: RootSays): RootOpinion => ({ witness, partition, because });
  const initBoot = find('init_boot');
  if (initBoot && initBoot.hasRamdisk !== false) return say('init_boot', { code: 'init-boot', witness });
  const boot = find('boot');
  if (!boot) return null;
  if (boot.hasRamdisk) return say('boot', { code: 'boot-ramdisk', witness });
  // a package that lists boot and no init_boot says where it is not, and not yet that boot carries one
  if (boot.hasRamdisk === null)
    return witness === 'package' && images.length > 1 ? say('boot', { code: 'package-boot' }) : null;
  const recovery = find('recovery');
  if (!recovery) return null;
  return recovery.hasRamdisk === false
    ? say(null, { code: 'no-ramdisk' })
    : say('recovery', { code: 'only-recovery' });
}

function ofHandset(partitions: readonly string[]): RootOpinion | null {
  if (partitions.includes('init_boot'))
    return { witness: 'handset', partition: 'init_boot', because: { code: 'names-init-boot' } };
  // only a list that names boot is long enough to miss init_boot from
  if (partitions.includes('boot'))
    return { witness: 'handset', partition: 'boot', because: { code: 'names-boot' } };
  return null;
}

function ofRule(level: number | null): RootOpinion | null {
  if (level === null) return null;
  const withInitBoot = level >= LAUNCHED_WITH_INIT_BOOT;
  return {
    witness: 'rule of thumb',
    partition: withInitBoot ? 'init_boot' : 'boot',
    because: { code: 'launched', level, withInitBoot },
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
    const because = { code: 'nothing-known' } as const;
    return { partition: null, because, sure: false, opinions, agree: true, recoveryOnly: false };
  }
  // a partition named recovery is the last resort of the evidence; what names boot by absence alone does not
  // contradict it
  const agree = opinions.every((opinion) => samePartition(opinion, first));
  return {
    partition: first.partition,
    because: first.because,
    sure: first.witness !== 'rule of thumb' && evidenceAgrees(opinions, first),
    opinions,
    agree,
    recoveryOnly: first.partition === 'recovery',
  };
}

export interface RecoveryHome {
  readonly home: 'own partition' | 'boot' | 'vendor_boot' | null;
  readonly because: RecoveryHomeSays;
  readonly onWrite: OnRootWrite;
  readonly onUpdate: OnUpdate;
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
  const root = rootPartition;
  if (named.includes('recovery')) {
    const shared = root === 'recovery';
    return {
      home: 'own partition',
      because: 'own-partition',
      onWrite: shared ? { code: 'overwrites-both', partition: 'recovery' } : { code: 'left-alone', root },
      onUpdate: slotCount === 1 ? 'stock-again-at-start' : 'stock-over-it',
      recoveryFirst: shared,
    };
  }
  if (vendorRamdisks.includes('recovery')) {
    return {
      home: 'vendor_boot',
      because: 'vendor-boot-ramdisk',
      onWrite: { code: 'fragment-left-alone', root },
      onUpdate: 'own-vendor-boot',
      recoveryFirst: false,
    };
  }
  const inBoot = images.some((image) => image.partition === 'boot' && image.hasRamdisk === true);
  // that there is no partition of that name is only known from one who named them all
  if (inBoot && partitions.length > 0) {
    const shared = root === 'boot';
    return {
      home: 'boot',
      because: 'boot-ramdisk',
      onWrite: shared ? { code: 'overwrites-both', partition: 'boot' } : { code: 'boot-overwrites' },
      onUpdate: 'own-boot',
      recoveryFirst: shared,
    };
  }
  return {
    home: null,
    because: inBoot ? 'partitions-unread' : 'no-image-holds-one',
    onWrite: { code: 'unknown' },
    onUpdate: 'unknown',
    recoveryFirst: false,
  };
}

/** Which partition's ramdisk carries root, and why (docs/method.md, "Which partition carries root"). */
export interface RootPartition {
  readonly partition: string | null;
  readonly reason: string;
  /** Evidence was read, or only the rule of thumb was used. */
  readonly sure: boolean;
}

export interface RootPartitionInput {
  /** Partitions the handset's bootloader or a package names. */
  readonly partitions: readonly string[];
  readonly firstApiLevel: number | null;
}

const LAUNCHED_WITH_INIT_BOOT = 33;

export function rootPartitionOf({ partitions, firstApiLevel }: RootPartitionInput): RootPartition {
  if (partitions.includes('init_boot')) return { partition: 'init_boot', reason: 'It has an init_boot partition.', sure: true };
  if (firstApiLevel === null)
    return { partition: null, reason: 'Neither its partitions nor the release it was launched with are known.', sure: false };
  return firstApiLevel >= LAUNCHED_WITH_INIT_BOOT
    ? { partition: 'init_boot', reason: `Launched with platform level ${firstApiLevel}, so by rule of thumb init_boot.`, sure: false }
    : { partition: 'boot', reason: `Launched with platform level ${firstApiLevel}, before init_boot, so by rule of thumb boot.`, sure: false };
}

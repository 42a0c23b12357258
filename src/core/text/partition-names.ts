/* What the platform's usual names say of partitions (docs/method.md, "What may be written where"). */

/** In the super partition on every handset that has one, unless it was read otherwise. */
export const USUALLY_LOGICAL =
  /^(?:system|system_ext|product|vendor|odm|system_dlkm|vendor_dlkm|odm_dlkm|my_[a-z]+)$/;
export const ALWAYS_PHYSICAL =
  /^(?:boot|init_boot|vendor_boot|vendor_kernel_boot|recovery|dtbo|pvmfw|vbmeta(?:_[a-z]+)?|super|userdata|metadata|misc)$/;
/** They hold what the handset itself makes or lays out. */
const ITS_OWN = new Set(['super', 'userdata', 'metadata', 'misc']);

/** Whether a build writes a partition of this name, as far as its name tells; bootloader and radio may stay. */
export const isOfBuild = (partition: string): boolean =>
  USUALLY_LOGICAL.test(partition) || (ALWAYS_PHYSICAL.test(partition) && !ITS_OWN.has(partition));

/** `a` of `boot_a`; null of `metadata`. */
export const slotOf = (name: string): 'a' | 'b' | null =>
  name.endsWith('_a') ? 'a' : name.endsWith('_b') ? 'b' : null;

/** `boot` of `boot_a`. */
export const unslotted = (name: string): string => name.replace(/_[ab]$/, '');

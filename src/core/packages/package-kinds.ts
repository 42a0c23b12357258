/*
 * What a package can be, and the role that it has among other files. Recognised, in this order of evidence, by
 * `openPackage`.
 */

export const PACKAGE_KINDS = {
  'update-zip': { role: 'package' },
  'factory-zip': { role: 'package' },
  'image-zip': { role: 'package' },
  'flash-list': { role: 'package' },
  'tar-set': { role: 'part of a set' },
  'block-update-zip': { role: 'package' },
  'bare-image': { role: 'image' },
  'recovery-zip': { role: 'installer for a recovery' },
  'module-zip': { role: 'module' },
  kit: { role: 'kit' },
  unknown: { role: 'unknown' },
} as const;

export type PackageKind = keyof typeof PACKAGE_KINDS;
export type PackageRole = (typeof PACKAGE_KINDS)[PackageKind]['role'];

import { ROLE_WORDS as PART_WORDS } from '@/core/packages/set-roles';
import type { FileOnTable, FileRole, FileSource } from '@/core/table/roll-call';
import type { PackageReport } from '@/core/packages/package-report';

const ROLE_WORDS: Readonly<Record<FileRole, string>> = {
  package: 'full package',
  'incremental package': 'incremental package',
  'part of a set': 'part of a tar set',
  image: 'one image',
  kit: 'patch kit',
  module: 'module',
  'installer for a recovery': 'installs through a recovery',
  uninstaller: 'uninstaller for a recovery',
  'list of writes': 'list of writes',
  checksums: 'checksums',
  signature: 'signature',
  'property dump': 'property dump',
  'host tool': 'program for a computer',
  unknown: 'not recognised',
};

/** What a file is; of a part of a set, what for. */
export function roleWordsOf({ role, report }: FileOnTable): string {
  const part = report?.set?.parts[0];
  return part && part.role !== 'unknown' ? PART_WORDS[part.role] : ROLE_WORDS[role];
}

export const KIND_WORDS: Readonly<Record<PackageReport['kind'], string>> = {
  'update-zip': 'update package',
  'factory-zip': 'factory archive',
  'image-zip': 'archive of images',
  'flash-list': 'package with a list of writes',
  'tar-set': 'tar set',
  'block-update-zip': 'block update',
  'bare-image': 'image',
  'recovery-zip': 'package for a recovery',
  'module-zip': 'module',
  kit: 'patch kit',
  unknown: 'file',
};

export const SOURCE_WORDS: Readonly<Record<FileSource, string>> = {
  'not said': 'where from?',
  maker: 'from its maker',
  author: 'from its author',
  mirror: 'from a mirror',
  branch: 'from a branch',
  leaked: 'leaked',
};

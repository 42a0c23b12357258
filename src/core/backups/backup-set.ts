import type { BackupKind, BackupPart } from '../words/backups';
import { BACKUP_KIND_WORDS, BACKUP_PART_WORDS } from '../words/backups';

/*
 * What a backup of each kind has to hold to be a whole set (docs/method.md, "Backup sets"). What was never said
 * of one is not judged.
 */

export const BACKUP_KINDS = Object.keys(BACKUP_KIND_WORDS) as readonly BackupKind[];
export const BACKUP_PARTS = Object.keys(BACKUP_PART_WORDS) as readonly BackupPart[];

export const SET_PARTS: Readonly<Record<BackupKind, readonly BackupPart[]>> = {
  files: ['photos', 'documents', 'contacts', 'messages', 'sign-in-keys', 'app-only'],
  // it takes along what apps let it take, and nothing of the storage
  'in-system': ['apps', 'settings', 'messages', 'photos', 'documents', 'sign-in-keys', 'app-only'],
  // data opens only over the build that it was taken from, and with the lock that it had
  'image-level': ['data-image', 'root-images', 'storage', 'screen-lock'],
};

/**
 * What of a whole set is not in it.
 * @param parts what was said to be in it, or not to be on the handset at all
 */
export const lackingOf = (what: BackupKind, parts: readonly BackupPart[]): readonly BackupPart[] =>
  SET_PARTS[what].filter((part) => !parts.includes(part));

/* What the kinds and the parts of a backup are called. */

export const BACKUP_KIND_WORDS = {
  files: 'its files',
  'in-system': 'the system’s own backup',
  'image-level': 'an image of its data',
} as const;
export type BackupKind = keyof typeof BACKUP_KIND_WORDS;

export const BACKUP_PART_WORDS = {
  photos: 'photos and films',
  documents: 'documents and downloads',
  contacts: 'contacts and calendar',
  messages: 'messages and call list',
  'sign-in-keys': 'keys of sign-in apps, or their recovery codes',
  'app-only': 'chats and notes that live in one app',
  apps: 'apps and their data',
  settings: 'settings and the list of accounts',
  'data-image': 'the image of the data, opened once',
  'root-images': 'the images of the same build that carry root and recovery',
  storage: 'the storage and a card, if the image leaves them out',
  'screen-lock': 'the screen lock, written down: the data opens with it only',
} as const;
export type BackupPart = keyof typeof BACKUP_PART_WORDS;

export const lackWords = (lacking: readonly BackupPart[]): string =>
  lacking.map((part) => BACKUP_PART_WORDS[part]).join('; ');

import { array, bool, number, object, string } from 'yup';
import type { InferType } from 'yup';
import { boundedJson } from '@/core/bounded-json';
import { EternoError } from '@/core/errors';

/*
 * A backup is an open ZIP: `eterno-backup.json`, the tables as JSON lists in `tables/NAME.json`, the vault's
 * files in `images/SHA256` and `kits/SHA256`, all of them listed with size and hash in the first
 * (docs/backup-format.md).
 */

/** What of the vault goes into a backup; images of a handset's data stay where they are. */
export const BACKUP_SHELVES = ['images', 'kits', 'installs', 'modules', 'pictures'] as const;
export const BACKUP_MANIFEST = 'eterno-backup.json';
export const BACKUP_FORMAT = 'eterno-backup';
export const BACKUP_VERSION = 1;

const hash = string()
  .matches(/^[0-9a-f]{64}$/)
  .required();
const bytes = number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required();

const manifestSchema = object({
  format: string().oneOf([BACKUP_FORMAT]).required(),
  formatVersion: number().integer().required(),
  madeAt: number().integer().required(),
  withPrivate: bool().required(),
  tables: array(
    object({
      name: string()
        .matches(/^[a-z_]{1,40}$/)
        .required(),
      rows: bytes,
      sizeBytes: bytes,
      sha256: hash,
    }),
  )
    .max(64)
    .required(),
  files: array(
    object({
      shelf: string().oneOf(BACKUP_SHELVES).required(),
      sha256: hash,
      sizeBytes: bytes,
    }),
  )
    .max(100_000)
    .required(),
});
export type BackupShelf = (typeof BACKUP_SHELVES)[number];
export type BackupManifest = InferType<typeof manifestSchema>;

/** A list of tables and a list of files. */
const MANIFEST_BOUNDS = { depth: 3, structures: 1_000_000 };

/**
 * @throws {EternoError} `bad-magic` for anything but a backup, `unsupported` for a newer one, `bad-field`,
 * `duplicate`
 */
export async function parseManifest(bytes: Uint8Array): Promise<BackupManifest> {
  let value: unknown;
  try {
    value = boundedJson(bytes, MANIFEST_BOUNDS);
  } catch {
    throw new EternoError('bad-magic', 'this is no backup: its list cannot be read', {
      file: BACKUP_MANIFEST,
    });
  }
  const { format, formatVersion } = (typeof value === 'object' && value !== null ? value : {}) as {
    format?: unknown;
    formatVersion?: unknown;
  };
  if (format !== BACKUP_FORMAT)
    throw new EternoError('bad-magic', 'this is no backup of Eterno', { file: BACKUP_MANIFEST });
  if (formatVersion !== BACKUP_VERSION)
    throw new EternoError(
      'unsupported',
      `this backup has version ${String(formatVersion)}, and this Eterno reads ${BACKUP_VERSION}`,
      {
        file: BACKUP_MANIFEST,
      },
    );
  const manifest = await manifestSchema.validate(value, { strict: true }).catch((thrown: unknown) => {
    throw new EternoError('bad-field', thrown instanceof Error ? thrown.message : 'the list is damaged', {
      file: BACKUP_MANIFEST,
    });
  });
  const names = [
    ...manifest.tables.map(({ name }) => tablePath(name)),
    ...manifest.files.map(({ shelf, sha256 }) => `${shelf}/${sha256}`),
  ];
  if (new Set(names).size !== names.length)
    throw new EternoError('duplicate', 'the list names something twice', { file: BACKUP_MANIFEST });
  return manifest;
}

export const tablePath = (name: string) => `tables/${name}.json`;
export const filePath = ({ shelf, sha256 }: { readonly shelf: string; readonly sha256: string }) =>
  `${shelf}/${sha256}`;

import { splitFingerprint } from '../formats/facts/parse-facts';
import type { PackageFile } from './package-files';
import { findFile, parseKeyValues, readTextFile } from './package-files';
import type { PackageBuild } from './package-report';
import { UNKNOWN_BUILD } from './package-report';

export const METADATA_NAME = 'META-INF/com/android/metadata';

/** The build that an update's metadata names; null where there is none. */
export async function readUpdateMetadata(files: readonly PackageFile[]): Promise<PackageBuild | null> {
  const file = findFile(files, METADATA_NAME);
  if (!file) return null;
  const metadata = parseKeyValues(await readTextFile(file));
  const fingerprint = metadata.get('post-build') || null;
  const parts = fingerprint ? splitFingerprint(fingerprint) : null;
  return {
    ...UNKNOWN_BUILD,
    fingerprint,
    buildId: parts?.id ?? null,
    incrementalVersion: metadata.get('post-build-incremental') || parts?.incremental || null,
    patchLevel: metadata.get('post-security-patch-level') || null,
    devices: (metadata.get('pre-device') ?? '').split(/[,|]/).filter((name) => name !== ''),
    sourceFingerprint: metadata.get('pre-build') || null,
  };
}

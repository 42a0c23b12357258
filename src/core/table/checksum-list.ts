/* Checksum files and pasted values (docs/formats.md, "Checksum lists"). */

export type ChecksumName = 'md5' | 'sha1' | 'sha256' | 'sha512';
const BY_LENGTH: Readonly<Record<number, ChecksumName>> = {
  32: 'md5',
  40: 'sha1',
  64: 'sha256',
  128: 'sha512',
};

export interface StatedChecksum {
  readonly algorithm: ChecksumName;
  /** Lower-case hex. */
  readonly hash: string;
  /** The file it is for, where the text says. */
  readonly name: string | null;
}

/**
 * Reads `hash  name`, `hash *name`, `NAME (file) = hash`, `key: hash` and lone hashes; everything else is
 * passed over.
 */
export function parseChecksums(text: string): StatedChecksum[] {
  const found: StatedChecksum[] = [];
  for (const line of text.split(/\r?\n/)) {
    const tagged = /\(([^()]+)\)\s*=\s*([0-9a-fA-F]+)\s*$/.exec(line);
    const listed = /(?:^|[\s:=])([0-9a-fA-F]{32,128})(?:[ \t]+\*?(\S.*?))?\s*$/.exec(line);
    const hash = (tagged?.[2] ?? listed?.[1])?.toLowerCase();
    const algorithm = hash ? BY_LENGTH[hash.length] : undefined;
    if (hash && algorithm) found.push({ algorithm, hash, name: tagged?.[1] ?? listed?.[2] ?? null });
  }
  return found;
}

export type ChecksumVerdict =
  | { readonly verdict: 'holds' | 'differs'; readonly stated: StatedChecksum; readonly got: string }
  /** Nothing that was given speaks of this file. */
  | { readonly verdict: 'silent' };

const baseName = (name: string) => name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1);

/**
 * Holds a file's digests against what is stated. A value given for another file says nothing of this one;
 * without names, any that holds is taken, else the first is told as differing.
 */
export function checkAgainst(
  stated: readonly StatedChecksum[],
  fileName: string,
  digests: Readonly<Partial<Record<ChecksumName, string>>>,
): ChecksumVerdict {
  const speaking = stated.filter(
    ({ name, algorithm }) =>
      digests[algorithm] !== undefined && (name === null || baseName(name) === baseName(fileName)),
  );
  const judged = speaking.map((one) => ({
    verdict: digests[one.algorithm] === one.hash ? ('holds' as const) : ('differs' as const),
    stated: one,
    got: digests[one.algorithm]!,
  }));
  const named = judged.filter(({ stated: { name } }) => name !== null);
  const counted = named.length > 0 ? named : judged;
  return (
    counted.find(({ verdict }) => verdict === (named.length > 0 ? 'differs' : 'holds')) ??
    counted[0] ?? { verdict: 'silent' }
  );
}

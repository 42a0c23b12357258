import type { ByteSource } from '../bytes/byte-source';
import { subSource } from '../bytes/byte-source';
import { EternoError, throwIfAborted } from '../errors';
import { isTar, readTar } from '../formats/tar/reader';
import { LIMITS } from '../limits';
import { identifyImage, INIT_BOOT_OR_RECOVERY, mayBeOf } from '../packages/bare-image';
import type { Ports, Watch } from '../ports';
import type { SizedImage } from './held-image';
import { heldImage } from './held-image';

/* Partitions read out of a rooted handset, as files or as one tar (docs/method.md, "Read-back"). */

export const READ_BACK_PARTITIONS = ['boot', 'init_boot', 'vendor_boot', 'recovery', 'vbmeta'] as const;

export interface ReadBackName {
  readonly partition: string;
  /** `a`, `b`, or null where the name says none. */
  readonly slot: string | null;
}

const NAME =
  /(?:^|[^a-z])(init_boot|vendor_boot|vendor_kernel_boot|boot|recovery|vbmeta_system|vbmeta_vendor|vbmeta)(?:[_.-]?(?:slot)?[_.-]?(a|b))?(?=[^a-z0-9]|$)/i;

/** What a file's name says: `boot_a.img`, `by-name/init_boot-b`, `north gate vbmeta_a.bin`. */
export function readBackName(name: string): ReadBackName | null {
  const match = NAME.exec(name.slice(name.lastIndexOf('/') + 1).toLowerCase());
  return match ? { partition: match[1]!, slot: match[2] ?? null } : null;
}

/** One partition as it was read out; of the part that a known image fills, where it begins with one. */
export interface ReadBackFile {
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly sha256: string;
  /** By its own data; null where it holds nothing known, such as zeros. */
  readonly holds: string | null;
  readonly fingerprint: string | null;
  /** By its name; the person may say otherwise. */
  readonly named: ReadBackName | null;
  /** Why it can't be taken as it is; null where it can. */
  readonly problem: string | null;
}

export interface OpenedReadBack {
  readonly file: ReadBackFile;
  /** Where those bytes lie: which of the given sources, and the half-open range in it. */
  readonly place: { readonly index: number; readonly start: number; readonly end: number };
}

interface Member extends Pick<OpenedReadBack, 'place'> {
  readonly name: string;
  readonly source: ByteSource;
}

async function membersOf(source: ByteSource, index: number): Promise<Member[]> {
  if (!(await isTar(source)))
    return [{ name: source.name, source, place: { index, start: 0, end: source.size } }];
  const { members } = await readTar(source);
  return members
    .filter((member) => member.type === '0' && member.size > 0)
    .map(({ name, dataOffset: start, size }) => ({
      name,
      source: subSource(source, start, start + size, name),
      place: { index, start, end: start + size },
    }));
}

/**
 * Hashes and looks into everything that was read out; tars are opened in place.
 * @param known images that a partition may begin with: what lies behind one counts for nothing
 * @throws {EternoError} `not-found` where no file is given, `too-large`, and of the tar reader
 */
export async function openReadBack(
  sources: readonly ByteSource[],
  known: readonly SizedImage[],
  ports: Ports,
  { signal, onProgress }: Watch = {},
): Promise<OpenedReadBack[]> {
  const members = (await Promise.all(sources.map(membersOf))).flat();
  if (members.length === 0) throw new EternoError('not-found', 'there is no file in what was given');
  if (members.length > LIMITS.packageFiles)
    throw new EternoError('too-large', `${members.length} files are more than a read-back has`);
  const totalBytes = members.reduce((sum, { source }) => sum + source.size, 0);
  const out: OpenedReadBack[] = [];
  let doneBytes = 0;
  for (const { name, source, place } of members) {
    throwIfAborted(signal);
    if (source.size > LIMITS.imageBytes)
      throw new EternoError('too-large', `${name} is larger than any of these partitions`, { file: name });
    const held = await heldImage(source, known, ports.digests, signal);
    const image = subSource(source, 0, held.sizeBytes, name);
    const end = place.start + held.sizeBytes;
    out.push({ file: await describe(name, image, held, ports), place: { ...place, end } });
    doneBytes += source.size;
    onProgress?.({ phase: 'hash', doneBytes, totalBytes });
  }
  return out;
}

async function describe(
  name: string,
  source: ByteSource,
  held: SizedImage,
  ports: Ports,
): Promise<ReadBackFile> {
  const named = readBackName(name);
  const base = { fileName: name, ...held, named };
  try {
    const identity = await identifyImage(source, ports);
    const { partition, build, avb } = identity;
    // a boot image's header alone does not tell boot from recovery, nor always init_boot from it
    const vague =
      named !== null &&
      (partition === INIT_BOOT_OR_RECOVERY
        ? mayBeOf(identity, named.partition)
        : avb === null && partition === 'boot' && named.partition === 'recovery');
    const other =
      named !== null &&
      !vague &&
      named.partition !== partition &&
      !(named.partition.startsWith('vbmeta') && partition === 'vbmeta');
    const problem = other ? `It is named ${named.partition} and holds an image of ${partition}.` : null;
    return { ...base, holds: vague ? named.partition : partition, fingerprint: build.fingerprint, problem };
  } catch (thrown) {
    const what = thrown instanceof EternoError ? thrown.message : 'it cannot be read';
    return { ...base, holds: null, fingerprint: null, problem: `Its content says nothing: ${what}.` };
  }
}

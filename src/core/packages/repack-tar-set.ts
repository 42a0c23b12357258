import type { ByteSource } from '../bytes/byte-source';
import { readPieces, subSource } from '../bytes/byte-source';
import { latin1, toHex } from '../bytes/bytes';
import { sha256OfSource } from '../bytes/digest';
import { guessCompression } from '../codecs/codec';
import { EternoError, throwIfAborted } from '../errors';
import { resizedTarHeader, TAR_BLOCK_BYTES } from '../formats/tar/layout';
import type { TarMember } from '../formats/tar/reader';
import { readTar } from '../formats/tar/reader';
import type { Ports, Watch } from '../ports';
import { identifyImage, mayBeOfOne } from './bare-image';
import type { OpenTar } from './tar-set';
import { checkMd5Line, isUserData, md5OfTar, memberSource, openTars } from './tar-set';
import { unwrap } from './unwrap';

/*
 * A tar set written again with images replaced, for lanes that write whole sets (docs/formats.md, "Tar
 * sets").
 */

export interface RepackedTar {
  readonly name: string;
  readonly size: number;
  readonly replaced: readonly string[];
  /** Members that were proved to be the maker's, byte for byte. */
  readonly kept: number;
  readonly md5: string | null;
}

export interface RepackedSet {
  readonly archives: readonly RepackedTar[];
  /** Members that hold what the person keeps on the handset. */
  readonly userData: readonly string[];
}

/** Where an archive goes; what was written is read back from it. */
export interface TarSink {
  write(bytes: Uint8Array): Promise<void>;
  readBack(): Promise<ByteSource>;
}

const padding = (size: number) =>
  new Uint8Array((TAR_BLOCK_BYTES - (size % TAR_BLOCK_BYTES)) % TAR_BLOCK_BYTES);

/**
 * The build word that the parts of one set share in their names, such as `T105X` in `SYS_T105X_user.tar.md5`.
 */
const buildWord = (name: string) => /^[A-Za-z]+_([A-Za-z0-9]+)/.exec(name)?.[1] ?? null;

/**
 * @throws {EternoError} `refused` where the parts, or the new images, are of different builds or partitions
 */
async function refuseMixture(
  tars: readonly OpenTar[],
  replacements: ReadonlyMap<string, ByteSource>,
  ports: Ports,
): Promise<void> {
  const words = [
    ...new Set(tars.map(({ source }) => buildWord(source.name)).filter((word) => word !== null)),
  ];
  if (words.length > 1)
    throw new EternoError('refused', `the parts are of different builds: ${words.join(', ')}`);
  const spoken = new Map<string, string>();
  const note = async (label: string, source: ByteSource) => {
    const identity = await identifyImage((await unwrap(source, ports)).source, ports);
    if (identity.build.fingerprint) spoken.set(label, identity.build.fingerprint);
    return identity;
  };
  for (const tar of tars) {
    for (const member of tar.archive.members) {
      const wanted = replacements.get(member.name);
      if (!wanted) continue;
      const [was, is] = [
        await note(member.name, memberSource(tar, member)),
        await note(`the new ${member.name}`, wanted),
      ];
      if (!mayBeOfOne(was, is))
        throw new EternoError(
          'refused',
          `${member.name} is an image of ${was.partition}, and the new one of ${is.partition}`,
          { file: wanted.name },
        );
    }
  }
  const builds = [...new Set(spoken.values())];
  if (builds.length > 1)
    throw new EternoError(
      'refused',
      `the images are of different builds: ${[...spoken].map(([name, build]) => `${name} of ${build}`).join('; ')}`,
    );
}

/** The new member's bytes, packed as the one it replaces. @throws {EternoError} `unsupported` kind */
async function packLike(
  stock: ByteSource,
  image: ByteSource,
  ports: Ports,
  signal: AbortSignal | undefined,
): Promise<Uint8Array> {
  const plain = await image.read(0, image.size, signal);
  const kind = guessCompression(await stock.read(0, Math.min(8, stock.size)));
  return kind === null || kind === 'none' ? plain : ports.codecs.encode(kind, plain);
}

async function writeTar(
  tar: OpenTar,
  replacements: ReadonlyMap<string, ByteSource>,
  sink: TarSink,
  ports: Ports,
  watch: Watch,
  report: (bytes: number) => void,
): Promise<RepackedTar> {
  const { source, archive } = tar;
  const digest = await ports.digests.create('md5');
  let size = 0;
  const put = async (bytes: Uint8Array) => {
    throwIfAborted(watch.signal);
    digest.update(bytes);
    await sink.write(bytes);
    size += bytes.length;
  };
  const copy = async (start: number, end: number) => {
    for await (const piece of readPieces(subSource(source, start, end), 1 << 20, watch.signal)) {
      await put(piece);
      report(piece.length);
    }
  };
  const replaced: TarMember[] = [];
  let at = 0;
  for (const member of archive.members) {
    const image = replacements.get(member.name);
    if (!image) continue;
    await copy(at, member.headerOffset);
    const packed = await packLike(memberSource(tar, member), image, ports, watch.signal);
    await put(resizedTarHeader(await source.read(member.headerOffset, member.dataOffset), packed.length));
    await put(packed);
    await put(padding(packed.length));
    at = member.dataOffset + member.size + padding(member.size).length;
    report(at - member.headerOffset);
    replaced.push(member);
  }
  await copy(at, archive.endBytes);
  const md5 = archive.md5Line ? toHex(digest.finish()) : null;
  if (archive.md5Line && md5 !== null) {
    const line = latin1(archive.md5Line.text.replace(/^[0-9a-fA-F]{32}/, md5));
    await sink.write(line);
    size += line.length;
  }
  const kept = archive.members.length - replaced.length;
  return { name: source.name, size, replaced: replaced.map((member) => member.name), kept, md5 };
}

/** Reads what was written and holds it against what was to be in it. @throws {EternoError} `bad-hash` */
async function checkWritten(
  stock: OpenTar,
  written: ByteSource,
  replacements: ReadonlyMap<string, ByteSource>,
  md5: string | null,
  ports: Ports,
): Promise<void> {
  const wrong = (what: string) =>
    new EternoError('bad-hash', `${stock.source.name}: ${what}`, { file: stock.source.name });
  const tar = { source: written, archive: await readTar(written) };
  const names = (archive: OpenTar['archive']) => archive.members.map((member) => member.name).join('\n');
  if (names(tar.archive) !== names(stock.archive)) throw wrong('its members came out in another order');
  if (md5 !== null && (await md5OfTar(tar, ports)) !== md5)
    throw wrong('it did not come out with the MD5 of its line');
  const hash = (source: ByteSource) => sha256OfSource(ports.digests, source);
  for (const [i, member] of tar.archive.members.entries()) {
    const image = replacements.get(member.name);
    if (image) {
      const { source } = await unwrap(memberSource(tar, member), ports);
      if ((await hash(source)) !== (await hash(image)))
        throw wrong(`${member.name} does not hold the new image`);
    } else if (
      (await hash(memberSource(tar, member))) !== (await hash(memberSource(stock, stock.archive.members[i]!)))
    )
      throw wrong(`${member.name} is not the maker’s any more`);
  }
}

/**
 * Writes every archive of a set again, with members replaced by raw images: names, order and kind of packing
 * stay, the MD5 line is renewed. The stock archives are held against their own lines first, what was written
 * is read back.
 * @param replacements raw images by member name @param sinkFor where an archive of this name goes
 * @throws {EternoError} `not-found` or `duplicate` member, `refused`, `bad-hash`, `unsupported`, and what the
 *   readers find wrong
 */
export async function repackTarSet(
  sources: readonly ByteSource[],
  replacements: ReadonlyMap<string, ByteSource>,
  sinkFor: (name: string) => TarSink,
  ports: Ports,
  watch: Watch = {},
): Promise<RepackedSet> {
  const tars = await openTars(sources);
  for (const name of replacements.keys()) {
    const count = tars.reduce(
      (sum, { archive }) => sum + archive.members.filter((member) => member.name === name).length,
      0,
    );
    if (count === 0) throw new EternoError('not-found', `no archive of the set has a member "${name}"`);
    if (count > 1) throw new EternoError('duplicate', `the set has ${count} members "${name}"`);
  }
  if (new Set(sources.map((source) => source.name)).size < sources.length)
    throw new EternoError('duplicate', 'two archives have the same name');
  await refuseMixture(tars, replacements, ports);
  const totalBytes = 2 * tars.reduce((sum, { archive }) => sum + archive.endBytes, 0);
  let doneBytes = 0;
  const report = (bytes: number) => {
    doneBytes += bytes;
    watch.onProgress?.({ phase: 'repack', doneBytes, totalBytes });
  };
  const archives: RepackedTar[] = [];
  for (const tar of tars) {
    await checkMd5Line(tar, ports, watch.signal ? { signal: watch.signal } : {});
    report(tar.archive.endBytes);
    const sink = sinkFor(tar.source.name);
    const written = await writeTar(tar, replacements, sink, ports, watch, report);
    await checkWritten(tar, await sink.readBack(), replacements, written.md5, ports);
    archives.push(written);
  }
  const userData = tars.flatMap(({ source, archive }) =>
    archive.members
      .filter((member) => isUserData(member.name))
      .map((member) => `${source.name}/${member.name}`),
  );
  return { archives, userData };
}

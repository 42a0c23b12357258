import type { ByteSource } from '../bytes/byte-source';
import { subSource } from '../bytes/byte-source';
import { digestOfSource } from '../bytes/digest';
import { guessCompression } from '../codecs/codec';
import { lz4FrameContentBytes } from '../codecs/lz4-frame';
import { EternoError } from '../errors';
import type { TarArchive, TarMember } from '../formats/tar/reader';
import { readTar } from '../formats/tar/reader';
import type { Ports, Watch } from '../ports';
import type { ImageMember } from './member-package';
import { buildOfMembers, memberPackage } from './member-package';
import { baseName } from './package-files';
import { contentsOf } from './contents';
import { contentOf, isRegion, roleByContent, roleMember } from './set-roles';
import type { OpenedPackage } from './package-report';

/*
 * Tar sets (docs/formats.md, "Packages"): several archives that make one firmware, images in them plain or as
 * lz4.
 */

const MEMBER_NAME = /^([A-Za-z0-9_-]{1,63})\.img(\.lz4)?$/i;
/** Members that hold what the person keeps on the handset. */
export const isUserData = (name: string) =>
  /^(userdata|user_data|data)\.img(\.lz4|\.ext4)?/i.test(baseName(name));

export const userDataWarning = (file: string, member: string) =>
  `${file} holds ${member}: writing that part wipes what is kept on the handset`;
export const noLineWarning = (file: string) =>
  `${file} carries no MD5 line: nothing says whether it is whole`;

export interface OpenTar {
  readonly source: ByteSource;
  readonly archive: TarArchive;
}

/** @throws {EternoError} of `readTar` */
export async function openTars(sources: readonly ByteSource[]): Promise<OpenTar[]> {
  const tars: OpenTar[] = [];
  for (const source of sources) tars.push({ source, archive: await readTar(source) });
  return tars;
}

export const memberSource = ({ source }: OpenTar, member: TarMember) =>
  subSource(source, member.dataOffset, member.dataOffset + member.size, baseName(member.name));

/** MD5 of a tar up to its appended line. */
export async function md5OfTar(
  { source, archive }: OpenTar,
  ports: Pick<Ports, 'digests'>,
  watch: Watch = {},
): Promise<string> {
  const { endBytes } = archive;
  return digestOfSource(ports.digests, 'md5', subSource(source, 0, endBytes), watch.signal, (doneBytes) =>
    watch.onProgress?.({ phase: 'check the archive', doneBytes, totalBytes: endBytes }),
  );
}

/** Holds a tar against the line appended to it; whether there was one. @throws {EternoError} `bad-hash` */
export async function checkMd5Line(
  tar: OpenTar,
  ports: Pick<Ports, 'digests'>,
  watch: Watch = {},
): Promise<boolean> {
  const line = tar.archive.md5Line;
  if (!line) return false;
  const got = await md5OfTar(tar, ports, watch);
  if (got !== line.md5)
    throw new EternoError(
      'bad-hash',
      `${tar.source.name} does not have the MD5 that the line behind it states`,
      {
        file: tar.source.name,
        offset: tar.archive.endBytes,
        details: { expected: line.md5, got },
      },
    );
  return true;
}

async function imageMember(tar: OpenTar, member: TarMember, ports: Ports): Promise<ImageMember | null> {
  const match = member.type === '0' ? MEMBER_NAME.exec(baseName(member.name)) : null;
  if (!match || isUserData(member.name)) return null;
  const source = memberSource(tar, member);
  const head = await source.read(0, Math.min(source.size, 19));
  const kind = guessCompression(head);
  return {
    partition: match[1]!,
    name: `${tar.source.name}/${member.name}`,
    size:
      kind === null || kind === 'none'
        ? member.size
        : kind === 'lz4-frame'
          ? lz4FrameContentBytes(head)
          : null,
    packedBytes: member.size,
    crc32: null,
    slots: null,
    hashStated: tar.archive.md5Line !== null,
    open: async (watch) => ({
      source,
      check: async (signal) => void (await checkMd5Line(tar, ports, signal ? { ...watch, signal } : watch)),
    }),
  };
}

export interface OpenedTarSet extends OpenedPackage {
  /** The archive in which an image names the build, and that build's incremental; null where none does. */
  readonly spoken: { readonly file: string; readonly incremental: string | null } | null;
}

/** Partitions that only region parts hold: of those one is chosen. */
function inRegionPartsOnly(tars: readonly OpenTar[]): ReadonlySet<string> {
  const holds = (wanted: boolean) =>
    tars.flatMap(({ archive }) => {
      const members = archive.members.map(({ name }) => roleMember(name));
      const role = roleByContent(contentOf(members));
      return (role !== null && isRegion(role)) === wanted ? members.map(({ stem }) => stem) : [];
    });
  const elsewhere = new Set(holds(false));
  return new Set(holds(true).filter((stem) => !elsewhere.has(stem)));
}

/** @throws {EternoError} of `readTar` */
export async function openTarSet(
  sources: readonly ByteSource[],
  ports: Ports,
  watch: Watch,
): Promise<OpenedTarSet> {
  const tars = await openTars(sources);
  const members: ImageMember[] = [];
  const warnings: string[] = [];
  for (const tar of tars) {
    for (const member of tar.archive.members) {
      const image = await imageMember(tar, member, ports);
      if (image) members.push(image);
      if (isUserData(member.name)) warnings.push(userDataWarning(tar.source.name, member.name));
    }
    if (!tar.archive.md5Line) warnings.push(noLineWarning(tar.source.name));
  }
  const spoken = await buildOfMembers(members, ports, watch);
  const evidence = tars.map(
    ({ source, archive }) =>
      `${source.name} is a tar of ${archive.members.length} ${archive.members.length === 1 ? 'member' : 'members'}${archive.md5Line ? ' with an MD5 line behind it, checked when something is taken out' : ''}`,
  );
  if (spoken) evidence.push(`${spoken.from} names the build in its verified-boot data`);
  else warnings.push('no image in it names the build');
  const opened = memberPackage(
    members,
    {
      kind: 'tar-set',
      evidence,
      warnings,
      build: spoken?.build ?? {},
      chosenApart: inRegionPartsOnly(tars),
    },
    ports,
  );
  const listed = tars.flatMap(({ source, archive }) =>
    archive.members.map(({ name, size }) => ({ name: `${source.name}/${name}`, size })),
  );
  const from = spoken && tars.find(({ source }) => spoken.from.startsWith(`${source.name}/`));
  return {
    ...opened,
    contents: contentsOf(listed, opened.report.images),
    spoken: from ? { file: from.source.name, incremental: spoken!.build.incrementalVersion } : null,
  };
}

import type { ByteSource } from '../bytes/byte-source';
import { guessCompression } from '../codecs/codec';
import { lz4FrameContentBytes } from '../codecs/lz4-frame';
import { EternoError, throwIfAborted } from '../errors';
import { isSparse } from '../formats/sparse/layout';
import { splitFingerprint } from '../formats/facts/parse-facts';
import { TAR_BLOCK_BYTES } from '../formats/tar/layout';
import type { TarMember } from '../formats/tar/reader';
import { isTar } from '../formats/tar/reader';
import { LIMITS } from '../limits';
import type { Ports, Watch } from '../ports';
import { identifyImage } from './bare-image';
import type { DoubledMember, SetHistory, SetManifest, SetMember, SetPart } from './set-manifest';
import { regionChoice } from './region-part';
import type { RoleContent, SetRole } from './set-roles';
import {
  contentOf,
  isData,
  isRegion,
  isTable,
  nameOf,
  ROLE_WORDS,
  roleByContent,
  roleMember,
} from './set-roles';
import type { OpenTar } from './tar-set';
import { md5OfTar, memberSource, noLineWarning, openTars, userDataWarning } from './tar-set';
import { unwrap } from './unwrap';

/*
 * A firmware set as a manifest of parts (docs/formats.md, "Tar sets"): what each is for, of which build, what is
 * missing, mixed or there twice, and what the choice between the region parts means.
 */

/** How closely a set is looked at. */
export interface SetLook {
  /** What is known of the handset; wiping is never advised without it. */
  readonly history?: SetHistory;
  /**
   * Only headers are read, and nothing is hashed or unpacked: the build is what the names say, and what one
   * image was found to name elsewhere.
   */
  readonly quick?: { readonly file: string; readonly incremental: string | null } | true;
}

interface ReadMember extends SetMember {
  readonly stem: string;
  readonly ending: string;
  /** The incremental of the build that its own data names. */
  readonly build: string | null;
}
interface ReadPart {
  readonly tar: OpenTar;
  readonly members: readonly ReadMember[];
  readonly content: RoleContent;
  readonly name: ReturnType<typeof nameOf>;
  /** The incremental that one of its images was found to name elsewhere. */
  readonly named: string | null;
  readonly checksum: SetPart['checksum'];
}

const IMAGE_ENDING = /^img(\.ext4)?$/;

/**
 * @throws {EternoError} `bad-magic` and `truncated` where a part is no whole tar, `duplicate` where two have one
 *   name, and of `readTar`; a wrong MD5 line is told, not thrown
 */
export async function readFirmwareSet(
  sources: readonly ByteSource[],
  ports: Ports,
  watch: Watch = {},
  look: SetLook = {},
): Promise<SetManifest> {
  if (new Set(sources.map(({ name }) => name)).size < sources.length)
    throw new EternoError('duplicate', 'two parts have the same name');
  const parts: ReadPart[] = [];
  for (const source of sources) await needTar(source);
  for (const tar of await openTars(sources)) parts.push(await readPart(tar, ports, watch, look));
  const told = parts.map(partOf);
  const build = buildOfSet(parts);
  return {
    kind: 'firmware-set',
    build,
    parts: told,
    missing: missingOf(parts, told),
    mixed: mixedIn(parts, build),
    doubled: doubledIn(parts, told),
    choice: regionChoice(told, look.history ?? null),
    warnings: parts.flatMap((part, i) => warningsOf(part, told[i]!)),
  };
}

async function needTar(source: ByteSource): Promise<void> {
  if (source.size >= TAR_BLOCK_BYTES && !(await isTar(source)))
    throw new EternoError('bad-magic', 'this is no part of a firmware set: it is no tar', {
      file: source.name,
    });
}

async function readPart(tar: OpenTar, ports: Ports, watch: Watch, { quick }: SetLook): Promise<ReadPart> {
  const { archive, source } = tar;
  // what ends at the end of a member may have lost those behind it
  if (quick === undefined && !archive.ended)
    throw new EternoError('truncated', 'the end of the archive is missing', {
      file: source.name,
      offset: archive.endBytes,
    });
  const members: ReadMember[] = [];
  for (const member of archive.members) {
    throwIfAborted(watch.signal);
    if (member.type === '0') members.push(await readMember(tar, member, ports, quick === undefined));
  }
  const line = archive.md5Line;
  return {
    tar,
    members,
    content: contentOf(members),
    name: nameOf(source.name),
    named: typeof quick === 'object' && quick.file === source.name ? quick.incremental : null,
    checksum:
      line === null
        ? 'none'
        : quick !== undefined
          ? 'stated'
          : (await md5OfTar(tar, ports, watch)) === line.md5
            ? 'ok'
            : 'bad',
  };
}

async function readMember(
  tar: OpenTar,
  member: TarMember,
  ports: Ports,
  inside: boolean,
): Promise<ReadMember> {
  const { stem, ending } = roleMember(member.name);
  const source = memberSource(tar, member);
  const head = await source.read(0, Math.min(source.size, 32));
  const kind = isSparse(head) ? null : guessCompression(head);
  const isImage = IMAGE_ENDING.test(ending);
  return {
    name: member.name,
    partition: isImage ? stem : null,
    size: (kind === 'lz4-frame' ? lz4FrameContentBytes(head) : null) ?? member.size,
    compression: kind ?? 'none',
    stem,
    ending,
    build: inside && isImage && !isData({ stem, ending }) ? await buildNamedIn(source, ports) : null,
  };
}

/** What is too large to be unpacked for it, or is of no known format, names none. */
async function buildNamedIn(source: ByteSource, ports: Ports): Promise<string | null> {
  if (source.size > LIMITS.peekBytes) return null;
  try {
    const { build } = await identifyImage((await unwrap(source, ports)).source, ports);
    return build.fingerprint === null ? null : (splitFingerprint(build.fingerprint)?.incremental ?? null);
  } catch (thrown) {
    if (thrown instanceof EternoError) return null;
    throw thrown;
  }
}

const buildsInside = ({ members, named }: ReadPart): string[] => [
  ...new Set([...members.flatMap(({ build }) => build ?? []), ...(named === null ? [] : [named])]),
];
const buildOfPart = (part: ReadPart): string | null => part.name.build ?? buildsInside(part)[0] ?? null;

function roleOf({ content, name }: ReadPart): SetRole {
  return roleByContent(content) ?? name.role ?? 'unknown';
}

function partOf(part: ReadPart): SetPart {
  const role = roleOf(part);
  return {
    file: part.tar.source.name,
    role,
    build: buildOfPart(part),
    evidence: evidenceOf(part),
    checksum: part.checksum,
    members: part.members.map(({ name, partition, size, compression }) => ({
      name,
      partition,
      size,
      compression,
    })),
  };
}

const HOLDS: Readonly<Record<Exclude<keyof RoleContent, 'dataAlone'>, string>> = {
  system: 'images of the system',
  region: 'partitions of a region',
  modem: 'a modem',
  bootloader: 'parts of a bootloader',
  data: 'user data',
  tables: 'a partition table',
};

function evidenceOf({ content, name, members }: ReadPart): string[] {
  const kinds = Object.keys(HOLDS) as (keyof typeof HOLDS)[];
  return [
    ...kinds.flatMap((kind) =>
      content[kind].length === 0 ? [] : [`holds ${HOLDS[kind]}: ${content[kind].join(', ')}`],
    ),
    ...(name.token === null ? [] : [`its name begins with ${name.token}`]),
    ...(members.length === 0 ? ['it holds nothing'] : []),
  ];
}

/** The build of most parts; of two named as often, the system's. */
function buildOfSet(parts: readonly ReadPart[]): string | null {
  const counts = new Map<string, number>();
  const rank = (build: string) => counts.get(build) ?? 0;
  const system = parts.find((part) => roleOf(part) === 'system');
  const ordered = system ? [system, ...parts.filter((part) => part !== system)] : parts;
  const builds = ordered.flatMap((part) => buildOfPart(part) ?? []);
  for (const build of builds) counts.set(build, rank(build) + 1);
  return builds.reduce<string | null>(
    (best, build) => (best === null || rank(build) > rank(best) ? build : best),
    null,
  );
}

/** Of another build by its name, or by what its images name. */
function mixedIn(parts: readonly ReadPart[], build: string | null): SetManifest['mixed'] {
  return parts.flatMap((part) => {
    const other = [part.name.build, ...buildsInside(part)].find((one) => one !== null && one !== build);
    return other === undefined || other === null ? [] : [{ file: part.tar.source.name, build: other }];
  });
}

/** A data part is never missing; one archive that holds everything brings what is in it. */
function missingOf(parts: readonly ReadPart[], told: readonly SetPart[]): string[] {
  const has = (role: SetRole, kind: 'bootloader' | 'modem' | 'region' | 'system') =>
    told.some((part) => part.role === role) || parts.some(({ content }) => content[kind].length > 0);
  return [
    ...(has('bootloader', 'bootloader') ? [] : ['bootloader']),
    ...(has('system', 'system') ? [] : ['system']),
    ...(has('modem', 'modem') ? [] : ['modem']),
    ...(has('region-keep', 'region') || told.some(({ role }) => isRegion(role)) ? [] : ['region-keep']),
  ];
}

function doubledIn(parts: readonly ReadPart[], told: readonly SetPart[]): DoubledMember[] {
  const places = new Map<string, number[]>();
  for (const [i, { members }] of parts.entries())
    for (const member of members) {
      // a table of partitions goes along with whichever part brings it
      if (isTable(member)) continue;
      const key = member.partition ?? member.stem;
      places.set(key, [...(places.get(key) ?? []), i]);
    }
  return [...places].flatMap(([partition, at]) => {
    if (at.length < 2) return [];
    const files = [...new Set(at.map((i) => told[i]!.file))];
    // twice in one part is a fault in any
    const harmless = files.length === at.length && at.every((i) => isRegion(told[i]!.role));
    return [{ partition, files, harmless }];
  });
}

function warningsOf(part: ReadPart, { file, role, build, checksum }: SetPart): string[] {
  const { name } = part;
  const inside = buildsInside(part).filter((one) => one !== build);
  return [
    ...(checksum === 'bad'
      ? [`${file} does not have the MD5 that the line behind it states: it is damaged`]
      : []),
    ...(checksum === 'none' ? [noLineWarning(file)] : []),
    ...(name.role !== null && name.role !== role
      ? [`${file} is called a ${ROLE_WORDS[name.role]}, and what lies in it makes it a ${ROLE_WORDS[role]}`]
      : []),
    ...(inside.length > 0
      ? [`${file} is called ${build ?? 'nothing'}, and holds images of ${inside.join(', ')}`]
      : []),
    ...part.members.filter(isData).map((member) => userDataWarning(file, member.name)),
    ...(role === 'unknown' ? [`what ${file} is for is not known`] : []),
  ];
}

import { EternoError } from '../errors';
import type { CheckedSource } from '../formats/zip/zip-archive';
import { sha256OfSource } from '../bytes/digest';
import { LIMITS } from '../limits';
import type { Ports, Watch } from '../ports';
import { identifyImage } from './bare-image';
import { copyImage } from './copy-image';
import { contentsOf } from './contents';
import type { OpenedPackage, PackageBuild, PackageImage, PackageReport } from './package-report';
import { plainImage, UNKNOWN_BUILD } from './package-report';
import { unwrap } from './unwrap';

/** An image that stands in a package as a file of its own. */
export interface ImageMember {
  readonly partition: string;
  readonly name: string;
  /** Of the raw image, where it can be told without unpacking. */
  readonly size: number | null;
  /** Of the file as it stands. */
  readonly packedBytes: number;
  /** Of the file as it stands, as its archive states it; null where none does. */
  readonly crc32: number | null;
  readonly slots: PackageImage['slots'];
  /** Whether `check` holds the file against a hash that the package states. */
  readonly hashStated: boolean;
  open(watch: Watch): Promise<CheckedSource>;
}

const hex8 = (value: number) => value.toString(16).padStart(8, '0');
/** Where a build is named, in the order in which it is cheapest to find. */
const SPEAKING = ['vbmeta', 'init_boot', 'vbmeta_system', 'boot', 'vendor_boot', 'recovery'];

/**
 * The build that a package's images speak for, by their own verified-boot data; small and plain ones are
 * asked first. An image that can't be read says nothing here; taking it out will say why.
 */
export async function buildOfMembers(
  members: readonly ImageMember[],
  ports: Ports,
  watch: Watch,
): Promise<{ build: PackageBuild; from: string } | null> {
  let second: { build: PackageBuild; from: string } | null = null;
  for (const partition of SPEAKING) {
    const member = members.find((one) => one.partition === partition);
    if (!member || member.packedBytes > LIMITS.peekBytes) continue;
    try {
      const { build } = await identifyImage(
        (await unwrap((await member.open(watch)).source, ports)).source,
        ports,
      );
      if (build.fingerprint) return { build, from: member.name };
      if (build.patchLevel) second ??= { build, from: member.name };
    } catch (thrown) {
      if (thrown instanceof EternoError && (thrown.code === 'cancelled' || thrown.code === 'io'))
        throw thrown;
    }
  }
  return second;
}

/** Parts of a set may carry one image twice; only where they differ nobody knows which is meant. */
async function needAllTheSame(
  found: readonly ImageMember[],
  partition: string,
  ports: Ports,
  watch: Watch,
): Promise<void> {
  const hashes = new Set<string>();
  for (const member of found) {
    const { source } = await member.open(watch);
    hashes.add(await sha256OfSource(ports.digests, source, watch.signal));
  }
  if (hashes.size > 1)
    throw new EternoError(
      'duplicate',
      `the package has ${found.length} different images of ${partition}: ${found.map(({ name }) => name).join(' and ')}`,
    );
}

export type MemberFindings = Pick<PackageReport, 'kind' | 'evidence' | 'warnings' | 'missing'> & {
  readonly build?: Partial<PackageBuild>;
  /** Partitions of which several images are no fault: only one of their parts is used. */
  readonly chosenApart?: ReadonlySet<string>;
};

/** A package whose images are files: what it says, and how one is taken out. */
export function memberPackage(
  members: readonly ImageMember[],
  { kind, build, evidence, warnings, missing = [], chosenApart = new Set() }: MemberFindings,
  ports: Ports,
): OpenedPackage {
  const names = new Set(members.map((member) => member.partition));
  const doubled = [...names].filter(
    (name) => !chosenApart.has(name) && members.filter((member) => member.partition === name).length > 1,
  );
  const images = [...names].map((name) => {
    const { size, slots, name: member, crc32 } = members.find((one) => one.partition === name)!;
    return plainImage(name, size, { slots, member, crc32: crc32 === null ? null : hex8(crc32) });
  });
  return {
    contents: contentsOf([], images),
    report: {
      kind,
      incremental: false,
      build: { ...UNKNOWN_BUILD, ...build },
      images,
      evidence,
      ...(missing.length > 0 ? { missing } : {}),
      warnings: [
        ...warnings,
        ...doubled.map(
          (name) =>
            `${name} stands in it more than once: ${members
              .filter((member) => member.partition === name)
              .map((member) => member.name)
              .join(' and ')}; it is taken out only where both are the same`,
        ),
      ],
      writes: [],
    },
    async take(partition, sink, watch = {}) {
      const found = members.filter((member) => member.partition === partition);
      if (found.length === 0) throw new EternoError('not-found', `the package has no image of ${partition}`);
      if (found.length > 1) await needAllTheSame(found, partition, ports, watch);
      const { source, check } = await found[0]!.open(watch);
      const taken = await copyImage(await unwrap(source, ports), sink, ports, watch, found[0]!.hashStated);
      await check(watch.signal);
      return taken;
    },
  };
}

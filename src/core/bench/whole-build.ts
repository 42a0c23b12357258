import { isOfBuild, unslotted, USUALLY_LOGICAL } from '../text/partition-names';
import type { HandsetFacts } from '../formats/facts/parse-facts';
import { LIMITS } from '../limits';
import type { PackageImage } from '../packages/package-report';
import type { Bench, KeptImage, OpenedPackage } from './bench';

/*
 * All of a build: which images it is made of, which of them the vault keeps and which only pass through from
 * the package's file to the handset, and the order in which they are written (docs/method.md, "A whole
 * build").
 */

/**
 * The package that holds all of a build: one with its bootloader where there is one, else the one with most
 * images.
 */
export function wholePackage(
  { packages }: Pick<Bench, 'packages'>,
  fingerprint: string,
): OpenedPackage | null {
  const own = packages.filter(
    ({ report }) =>
      !report.incremental && report.build.fingerprint === fingerprint && report.images.length > 0,
  );
  const size = ({ report }: OpenedPackage) =>
    report.images.length + (report.images.some((one) => one.partition === 'bootloader') ? 1000 : 0);
  return [...own].sort((a, b) => size(b) - size(a))[0] ?? null;
}

/** Whether an image is too large to be kept: it goes from the package's file to the handset. */
export const passesThrough = ({ partition, size }: Pick<PackageImage, 'partition' | 'size'>): boolean =>
  size === null ? USUALLY_LOGICAL.test(partition) || partition === 'super' : size > LIMITS.keptImageBytes;

export interface WholePart {
  readonly partition: string;
  /** As the package states it; null where it does not. */
  readonly size: number | null;
  readonly sha256: string | null;
  /** The file in the package that is this image, where it is made of files. */
  readonly member: string | null;
  /** The package's own list writes it to both slots. */
  readonly both: boolean;
  /** Its image in the vault; null where it passes through, or is missing. */
  readonly kept: KeptImage | null;
  readonly passes: boolean;
}

/** The images of a build, in the package's own order; null where no package of all of it was opened. */
export function wholeParts(
  bench: Pick<Bench, 'packages' | 'images'>,
  fingerprint: string,
): WholePart[] | null {
  const whole = wholePackage(bench, fingerprint);
  return (
    whole &&
    whole.report.images.map((image): WholePart => {
      const { partition, size, sha256, member } = image;
      const kept = bench.images.find(
        (one) => one.role === 'stock' && one.fingerprint === fingerprint && one.partition === partition,
      );
      return {
        partition,
        size: kept?.sizeBytes ?? size,
        sha256: kept?.sha256 ?? sha256,
        member,
        both: image.slots === 'both',
        kept: kept ?? null,
        passes: !kept && passesThrough(image),
      };
    })
  );
}

/** Images of a build that are to be kept and are not in the vault. */
export const stillToKeep = (parts: readonly WholePart[]): string[] =>
  parts.filter(({ kept, passes }) => kept === null && !passes).map(({ partition }) => partition);

/**
 * Partitions of the handset that a build has to bring and its package does not; a system it always has to
 * bring.
 */
function notInPackage(
  parts: readonly Pick<WholePart, 'partition'>[],
  partitions: HandsetFacts['partitions'],
): string[] {
  const brought = new Set(parts.map(({ partition }) => partition));
  const covered = (name: string) => brought.has(name) || (brought.has('super') && USUALLY_LOGICAL.test(name));
  const own = Object.entries(partitions)
    .filter(([, { size }]) => size !== 0)
    .map(([name]) => unslotted(name))
    .filter(isOfBuild);
  return [...new Set([...own, 'system'])].filter((name) => !covered(name));
}

/**
 * What is missing to write all of a build to a handset: images of its package that are to be kept, and those
 * that its package does not bring. Null where no package of it was opened.
 * @param partitions of the handset, as it was read
 */
export function wholeMissing(
  bench: Pick<Bench, 'packages' | 'images'>,
  fingerprint: string,
  partitions: HandsetFacts['partitions'],
): string[] | null {
  const parts = wholeParts(bench, fingerprint);
  return parts && [...stillToKeep(parts), ...notInPackage(parts, partitions)];
}

/** Whether writing all of a build writes a bootloader; so it counts where no package of it was opened. */
export const bringsBootloader = (bench: Pick<Bench, 'packages'>, fingerprint: string): boolean =>
  wholePackage(bench, fingerprint)?.report.images.some((one) => one.partition === 'bootloader') ?? true;

/** The level that a build's bootloader brings, from its image in the vault. */
export function bootloaderLevel({ images }: Pick<Bench, 'images'>, fingerprint: string): number | null {
  const image = images.find(
    (one) => one.partition === 'bootloader' && one.role === 'stock' && one.fingerprint === fingerprint,
  );
  return image ? (image.report.avb?.rollbackIndex ?? null) : null;
}

/** One turn of writing a whole build. */
export type WriteTurn<P> =
  | { readonly do: 'write'; readonly part: P }
  | { readonly do: 'restart'; readonly into: 'bootloader' | 'userspace' };

/**
 * What is left of the turns once some were carried out, in their order: a restart that follows what was
 * written last belongs to what is left, one before it was made.
 */
export function turnsLeft<P>(
  turns: readonly WriteTurn<P>[],
  isWritten: (part: P) => boolean,
): WriteTurn<P>[] {
  const last = turns.findLastIndex((turn) => turn.do === 'write' && isWritten(turn.part));
  return turns.filter((turn, at) => (turn.do === 'write' ? !isWritten(turn.part) : at > last));
}

const FIRST = ['bootloader', 'radio'];

/** As it was read in the bootloader; where it never was, as it usually is on handsets with user-space flashing. */
export function isLogical(
  { partitions, slotCount }: Pick<HandsetFacts, 'partitions' | 'slotCount'>,
  partition: string,
): boolean {
  const read = ['', '_a', '_b'].flatMap((end) => partitions[`${partition}${end}`]?.logical ?? []);
  return read[0] ?? (slotCount === 2 && USUALLY_LOGICAL.test(partition));
}

/**
 * The order of a whole build: bootloader, restart into it, radio, restart into it, then the rest in the
 * package's own order without a restart between, what is logical last, from user-space flashing.
 */
export function writeTurns<P extends { readonly partition: string }>(
  parts: readonly P[],
  isLogical: (partition: string) => boolean,
): WriteTurn<P>[] {
  const first = FIRST.flatMap((name): WriteTurn<P>[] => {
    const part = parts.find(({ partition }) => partition === name);
    return part
      ? [
          { do: 'write', part },
          { do: 'restart', into: 'bootloader' },
        ]
      : [];
  });
  const rest = parts.filter(({ partition }) => !FIRST.includes(partition));
  const logical = rest.filter(({ partition }) => isLogical(partition));
  const write = (part: P): WriteTurn<P> => ({ do: 'write', part });
  return [
    ...first,
    ...rest.filter((part) => !logical.includes(part)).map(write),
    ...(logical.length === 0
      ? []
      : ([
          { do: 'restart', into: 'userspace' },
          ...logical.map(write),
          { do: 'restart', into: 'bootloader' },
        ] as const)),
  ];
}

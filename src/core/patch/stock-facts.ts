import type { BootImage } from '../formats/boot-image/reader';
import { osVersionOf } from '../formats/boot-image/layout';
import type { Kernel } from '../formats/boot-image/kernel';
import { kernelArchitecture, kernelVersion } from '../formats/boot-image/kernel';
import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { isKind, nameOf, TYPE } from '../formats/cpio/cpio-archive';
import { splitFingerprint } from '../formats/facts/parse-facts';

/* What the stock image itself says, as conditions of a kit's steps ask it (docs/formats.md, "Patch kit"). */

/** Null where the image does not say it. */
export interface StockFacts {
  readonly sdk: number | null;
  readonly architecture: string | null;
  readonly partition: string;
  readonly header: number;
  /** Of its own kernel; an image without one meets no condition on it. */
  readonly kernel: { readonly version: string | null } | null;
}

export interface StockSays {
  readonly partition: string;
  readonly headerVersion: number;
  /** Of a boot image's header; 0 states nothing. */
  readonly osVersionField: number;
  readonly properties: Readonly<Record<string, string>>;
  readonly fingerprint: string | null;
  readonly kernel: Kernel | null;
  readonly archives: readonly CpioArchive[];
}

/** Platform levels of releases. */
const SDK_OF: Readonly<Record<number, number>> = {
  9: 28,
  10: 29,
  11: 30,
  12: 31,
  13: 33,
  14: 34,
  15: 35,
  16: 36,
  17: 37,
};

/** The release as verified-boot data states it, else the fingerprint, else the header. */
function releaseOf({ properties, fingerprint, osVersionField, partition }: StockSays): string | null {
  const stated = properties[`com.android.build.${partition}.os_version`];
  const named = fingerprint === null ? undefined : splitFingerprint(fingerprint)?.release;
  return stated ?? named ?? osVersionOf(osVersionField);
}

const sdkOf = (release: string | null): number | null =>
  release === null ? null : (SDK_OF[Number(/^\d+/.exec(release)?.[0])] ?? null);

const ELF = Uint8Array.of(0x7f, 0x45, 0x4c, 0x46);
const MACHINE_AT = 18;
const MACHINES: Readonly<Record<number, string>> = { 3: 'x86', 40: 'arm', 62: 'x86_64', 183: 'arm64' };

/** By the program that starts first; null where there is none, or it is of no known machine. */
function architectureOfInit(archives: readonly CpioArchive[]): string | null {
  const init = archives
    .flatMap(({ entries }) => entries)
    .filter((entry) => nameOf(entry) === 'init' && isKind(entry, TYPE.file))
    .at(-1);
  if (!init || init.data.length < MACHINE_AT + 2 || !ELF.every((byte, i) => init.data[i] === byte))
    return null;
  return MACHINES[init.data[MACHINE_AT]! | (init.data[MACHINE_AT + 1]! << 8)] ?? null;
}

export function stockFacts(says: StockSays): StockFacts {
  const { partition, headerVersion, kernel, archives } = says;
  return {
    sdk: sdkOf(releaseOf(says)),
    architecture: (kernel && kernelArchitecture(kernel.plain)) ?? architectureOfInit(archives),
    partition,
    header: headerVersion,
    kernel: kernel && { version: kernelVersion(kernel.plain) },
  };
}

export const headerFactsOf = ({ header }: BootImage) => ({
  headerVersion: header.version,
  osVersionField: header.osVersionField,
});

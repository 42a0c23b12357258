import type { ByteSource } from '../bytes/byte-source';
import type { CpioArchive } from '../formats/cpio/cpio-archive';
import { isKind, nameOf, TYPE } from '../formats/cpio/cpio-archive';
import type { Ramdisk } from '../formats/cpio/ramdisk';
import { archivesOf } from '../formats/cpio/ramdisk';
import { propertyOf } from '../formats/facts/parse-facts';
import { LIMITS } from '../limits';
import type { ImageIdentity } from '../packages/bare-image';
import { identifyImage } from '../packages/bare-image';
import type { ImageReport } from '../packages/inspect-image';
import { examineImage } from '../packages/inspect-image';
import type { EntryReport } from '../packages/list-ramdisk';
import { describeRamdisks } from '../packages/list-ramdisk';
import type { Ports } from '../ports';

/* One image as it is judged: its report, its entries, and what small texts in its ramdisk say. */

/** A regular file of at most 4 KiB in the ramdisk that is text. */
export interface SmallText {
  readonly name: string;
  readonly text: string;
}

export interface JudgedSide {
  readonly report: ImageReport;
  readonly identity: ImageIdentity;
  /** Of all its ramdisks; null where it has none. */
  readonly entries: readonly EntryReport[] | null;
  readonly texts: readonly SmallText[];
}

/** @throws {EternoError} of `examineImage` and `identifyImage` */
export async function readSide(source: ByteSource, ports: Ports): Promise<JudgedSide> {
  const { report, ramdisks } = await examineImage(source, ports);
  const entries =
    ramdisks.length > 0
      ? (await describeRamdisks(ramdisks, ports)).archives.flatMap((archive) => archive.entries)
      : null;
  return { report, identity: await identifyImage(source, ports), entries, texts: textsOf(ramdisks) };
}

/** The small texts of ramdisks, in the order they are unpacked. */
export const textsOf = (ramdisks: readonly Ramdisk[]): SmallText[] => textsIn(ramdisks.flatMap(archivesOf));

function textsIn(archives: readonly CpioArchive[]): SmallText[] {
  const texts: SmallText[] = [];
  for (const { entries } of archives)
    for (const entry of entries) {
      if (!isKind(entry, TYPE.file) || entry.data.length === 0 || entry.data.length > LIMITS.markerBytes)
        continue;
      const text = textOf(entry.data);
      if (text !== null) texts.push({ name: nameOf(entry), text });
    }
  return texts;
}

function textOf(data: Uint8Array): string | null {
  if (data.includes(0)) return null;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(data);
  } catch {
    // bytes that are no text
    return null;
  }
}

/** Properties that tell one build from the next, as the system prints them. */
const BUILD_PROPERTY =
  /^ro\.(?:[a-z_]+\.)?(?:build\.(?:fingerprint|id|version\.(?:incremental|security_patch|release))|product\.device)$/;

/** What the property files in its ramdisk say of the build, by key; the last of several counts. */
export function ramdiskProperties({ texts }: Pick<JudgedSide, 'texts'>): Readonly<Record<string, string>> {
  const found: Record<string, string> = {};
  for (const { text } of texts)
    for (const line of text.split(/\r\n|\n|\r/)) {
      const pair = propertyOf(line.trim());
      if (pair && BUILD_PROPERTY.test(pair[0])) found[pair[0]] = pair[1];
    }
  return found;
}

/** The fingerprint that a property file in these archives names; null where none does. */
export const fingerprintIn = (archives: readonly CpioArchive[]): string | null =>
  Object.entries(ramdiskProperties({ texts: textsIn(archives) })).find(
    ([key, value]) => key.endsWith('.fingerprint') && value !== '',
  )?.[1] ?? null;

/** Every fingerprint that the image's own bytes name: its verified-boot data first, then its ramdisk. */
export function fingerprintsOf(side: JudgedSide): string[] {
  const inside = Object.entries(ramdiskProperties(side))
    .filter(([key, value]) => key.endsWith('.fingerprint') && value !== '')
    .map(([, value]) => value);
  const own = side.identity.build.fingerprint;
  return [...new Set([...(own === null ? [] : [own]), ...inside])];
}

/** The build that it names first; of an image that names none the patch level of its header; else null. */
export const buildNamed = (side: JudgedSide): string | null =>
  fingerprintsOf(side)[0] ?? side.identity.build.patchLevel;

/** What a text says as `key=value` lines, for notes; empty where it is none. */
export const pairsOf = (text: string): Readonly<Record<string, string>> =>
  Object.fromEntries(
    text
      .split(/\r\n|\n|\r/)
      .map((line) => /^\s*([A-Za-z][\w.-]*)\s*=\s*(.*?)\s*$/.exec(line))
      .flatMap((match) => (match ? [[match[1]!, match[2]!] as const] : [])),
  );

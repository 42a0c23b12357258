import type { ByteSource } from '../bytes/byte-source';
import { fromLatin1, startsWith } from '../bytes/bytes';
import type { FitVerdict } from '../fit/fit-package';
import { isForeign } from '../fit/fit-package';
import { otherBuildNamed } from '../fit/named-build';
import { parsePrinted } from '../formats/facts/parse-facts';
import { parseFlashList } from '../formats/flash-list/parse-flash-list';
import { LIMITS } from '../limits';
import type { Ports } from '../ports';
import { parseChecksums } from './checksum-list';
import type { PackageRole } from '../packages/package-kinds';
import { PACKAGE_KINDS } from '../packages/package-kinds';
import type { PackageReport } from '../packages/package-report';
import { UNINSTALLS } from '../packages/script-zip';
import type { TableNote } from '../words/fit';

/* Roll-call (docs/method.md, "Roll-call"): everything that was put on the table gets its role by content. */

export type FileRole =
  | PackageRole
  | 'incremental package'
  | 'uninstaller'
  | 'list of writes'
  | 'checksums'
  | 'signature'
  | 'property dump'
  | 'host tool';

export interface FileOnTable {
  readonly name: string;
  readonly size: number;
  readonly role: FileRole;
  /** What it was found to be, where it is a package. */
  readonly report: PackageReport | null;
  /** What in it says so, in one line. */
  readonly says: string;
}

const LONGEST_TEXT_BYTES = 256 * 1024;
const PROGRAMS: readonly (readonly [string, readonly number[]])[] = [
  ['a program for Windows', [0x4d, 0x5a]],
  ['a program for Linux', [0x7f, 0x45, 0x4c, 0x46]],
  ['a program for macOS', [0xcf, 0xfa, 0xed, 0xfe]],
];

async function roleOfText(
  source: ByteSource,
  { readXml }: Pick<Ports, 'readXml'>,
): Promise<readonly [FileRole, string] | null> {
  const head = await source.read(0, Math.min(source.size, LONGEST_TEXT_BYTES));
  for (const [what, magic] of PROGRAMS)
    if (startsWith(head, Uint8Array.from(magic))) return ['host tool', what];
  const text = fromLatin1(head);
  if (text.startsWith('-----BEGIN PGP SIGNATURE-----')) return ['signature', 'a detached signature'];
  if (text.includes('\0') || source.size > LIMITS.factsTextBytes) return null;
  const { values } = parsePrinted(text);
  if (Object.keys(values).some((key) => key.startsWith('ro.')))
    return ['property dump', `${Object.keys(values).length} properties; paste it in the handset's room`];
  const sums = parseChecksums(text);
  if (sums.length > 0)
    return [
      'checksums',
      `${sums.length} ${sums.length === 1 ? 'value' : 'values'}, ${[...new Set(sums.map((sum) => sum.algorithm))].join(', ')}`,
    ];
  // only what was read to its end can be well-formed
  const list = source.size <= LONGEST_TEXT_BYTES ? parseFlashList(text, source.name, readXml) : null;
  return list ? ['list of writes', `${list.steps.length} writes`] : null;
}

/** Where a file came from, by the person's word. */
export const FILE_SOURCES = ['not said', 'maker', 'author', 'mirror', 'branch', 'leaked'] as const;
export type FileSource = (typeof FILE_SOURCES)[number];

/** The role of a file that was opened, by what is in it. */
export async function roleOfOpened(
  source: ByteSource,
  report: PackageReport,
  ports: Pick<Ports, 'readXml'>,
): Promise<FileOnTable> {
  const base = { name: source.name, size: source.size };
  if (report.kind === 'unknown') {
    const [role, says] =
      (await roleOfText(source, ports)) ??
      (['unknown', report.warnings[0] ?? 'nothing known stands in it'] as const);
    return { ...base, role, says, report: null };
  }
  const incremental = report.kind === 'update-zip' && report.incremental;
  const role = incremental
    ? 'incremental package'
    : report.evidence.includes(UNINSTALLS)
      ? 'uninstaller'
      : PACKAGE_KINDS[report.kind].role;
  return {
    ...base,
    role,
    says: report.set?.parts[0]?.evidence.join('; ') ?? report.evidence[0] ?? '',
    report,
  };
}

/** Parts on the table that make one firmware set. */
export interface SetOnTable {
  readonly parts: readonly FileOnTable[];
  /** Build numbers that the parts name; more than one is a mixture. */
  readonly builds: readonly string[];
  readonly devices: readonly string[];
  readonly partitions: readonly string[];
}

/** The set that its parts on the table make together; null where fewer than two lie there. */
export function setOnTable(files: readonly FileOnTable[]): SetOnTable | null {
  const parts = files.filter(({ role }) => role === 'part of a set');
  if (parts.length < 2) return null;
  const all = <T>(of: (report: PackageReport) => readonly T[]) => [
    ...new Set(parts.flatMap(({ report }) => (report ? of(report) : []))),
  ];
  // what each part is called and holds; images speak for some parts only
  const named = all(({ set }) => set?.parts.flatMap(({ build }) => build ?? []) ?? []);
  return {
    parts,
    builds: named.length > 1 ? named : all(({ build }) => (build.buildId === null ? [] : [build.buildId])),
    devices: all(({ build }) => build.devices),
    partitions: all(({ images }) => images.map(({ partition }) => partition)),
  };
}

const LEVEL = (file: FileOnTable) => file.report?.build.patchLevel ?? null;
const DEVICE = (file: FileOnTable) => file.report?.build.devices.join('|') ?? '';

/**
 * Holds the files on the table against each other.
 * @param verdicts for each file, how it fits each handset; empty where there is no handset
 * @returns notes by file, in the order of the files
 */
export function rollCall(
  files: readonly FileOnTable[],
  verdicts: readonly (readonly FitVerdict[])[],
): TableNote[][] {
  return files.map((file, i) => {
    const notes: TableNote[] = [];
    const twin = files.find(
      (other, k) =>
        k < i &&
        other.size === file.size &&
        other.role === file.role &&
        JSON.stringify(other.report) === JSON.stringify(file.report),
    );
    if (twin) notes.push({ code: 'doubled', other: twin.name });
    const level = LEVEL(file);
    const newer = files.find(
      (other) =>
        other.role === file.role &&
        DEVICE(other) !== '' &&
        DEVICE(other) === DEVICE(file) &&
        (LEVEL(other) ?? '') > (level ?? '~'),
    );
    if (newer && level) notes.push({ code: 'stale', other: newer.name });
    const own = verdicts[i] ?? [];
    if (own.length > 0 && own.every(isForeign)) notes.push({ code: 'wrong-shelf' });
    const buildId = file.report?.build.buildId ?? null;
    const named = buildId === null ? null : otherBuildNamed(file.name, buildId);
    if (buildId !== null && named !== null) notes.push({ code: 'renamed', name: named, content: buildId });
    for (const { partition, file: name } of file.report?.missing ?? [])
      notes.push({ code: 'missing', partition, file: name });
    return notes;
  });
}

import type { ByteSource } from '../bytes/byte-source';
import type { ImageReport } from '../packages/inspect-image';
import { examineImage } from '../packages/inspect-image';
import type { EntryReport } from '../packages/list-ramdisk';
import { describeRamdisks } from '../packages/list-ramdisk';
import type { Ports } from '../ports';

/* Two images side by side: sections, header, verified-boot data and ramdisk entries. */

export type SectionVerdict = 'same' | 'changed' | 'added' | 'removed';

export interface ComparedValue {
  readonly field: string;
  readonly a: string | null;
  readonly b: string | null;
  readonly same: boolean;
}

export interface ComparedSection {
  readonly name: string;
  readonly verdict: SectionVerdict;
  readonly a: { readonly size: number; readonly sha256: string } | null;
  readonly b: { readonly size: number; readonly sha256: string } | null;
}

export interface ChangedEntry {
  readonly name: string;
  /** What differs: `content`, `mode`, `owner`, `time` or `kind`. */
  readonly what: readonly string[];
  readonly a: EntryReport;
  readonly b: EntryReport;
}

export interface EntryComparison {
  readonly same: number;
  readonly added: readonly EntryReport[];
  readonly removed: readonly EntryReport[];
  readonly changed: readonly ChangedEntry[];
  readonly moved: readonly { readonly from: string; readonly to: string; readonly sha256: string }[];
}

export interface ImageComparison {
  /** Byte for byte. */
  readonly same: boolean;
  readonly header: readonly ComparedValue[];
  readonly sections: readonly ComparedSection[];
  readonly avb: readonly ComparedValue[];
  /** Null where neither image has a ramdisk. */
  readonly entries: EntryComparison | null;
}

/** @throws {EternoError} of `examineImage` */
export async function compareImages(a: ByteSource, b: ByteSource, ports: Ports): Promise<ImageComparison> {
  return compareReports(await sideOf(a, ports), await sideOf(b, ports));
}

async function sideOf(source: ByteSource, ports: Ports): Promise<ComparedSide> {
  const { report, ramdisks } = await examineImage(source, ports);
  const entries =
    ramdisks.length > 0
      ? (await describeRamdisks(ramdisks, ports)).archives.flatMap((archive) => archive.entries)
      : null;
  return { report, entries };
}

export interface ComparedSide {
  readonly report: ImageReport;
  readonly entries: readonly EntryReport[] | null;
}

/** The same from what is known of both already. */
export function compareReports(a: ComparedSide, b: ComparedSide): ImageComparison {
  return {
    same: a.report.sha256 === b.report.sha256,
    header: compareValues(headerValues(a.report), headerValues(b.report)),
    sections: compareSections(a.report, b.report),
    avb: compareValues(avbValues(a.report), avbValues(b.report)),
    entries:
      a.entries === null && b.entries === null ? null : compareEntries(a.entries ?? [], b.entries ?? []),
  };
}

type Values = Readonly<Record<string, string | null>>;
const text = (value: string | number | boolean | null) => (value === null ? null : String(value));

function headerValues(report: ImageReport): Values {
  const { kind, size, headerVersion, pageSize, name, cmdline, osVersion, patchLevel, ramdisk } = report;
  return {
    kind,
    size: text(size),
    'header version': text(headerVersion),
    'page size': text(pageSize),
    name,
    'command line': cmdline,
    release: osVersion,
    'patch level': patchLevel,
    'ramdisk packed as': ramdisk?.compression ?? null,
  };
}

function avbValues({ avb }: ImageReport): Values {
  if (!avb) return {};
  const { algorithm, rollbackIndex, flags, digestValid, signatureValid, properties } = avb;
  return {
    algorithm: text(algorithm),
    'rollback index': text(rollbackIndex),
    flags: text(flags),
    'digest holds': text(digestValid),
    'signature holds': text(signatureValid),
    ...properties,
  };
}

function compareValues(a: Values, b: Values): ComparedValue[] {
  const fields = [...new Set([...Object.keys(a), ...Object.keys(b)])];
  return fields.map((field) => {
    const [left, right] = [a[field] ?? null, b[field] ?? null];
    return { field, a: left, b: right, same: left === right };
  });
}

function compareSections(a: ImageReport, b: ImageReport): ComparedSection[] {
  const names = [...new Set([...a.sections, ...b.sections].map((section) => section.name))];
  return names.map((name) => {
    const [left, right] = [a, b].map((report) => {
      const section = report.sections.find((one) => one.name === name);
      return section ? { size: section.size, sha256: section.sha256 } : null;
    }) as [ComparedSection['a'], ComparedSection['b']];
    const verdict = !left ? 'added' : !right ? 'removed' : left.sha256 === right.sha256 ? 'same' : 'changed';
    return { name, verdict, a: left, b: right };
  });
}

function differences(a: EntryReport, b: EntryReport): string[] {
  const what: string[] = [];
  if (a.mode.slice(0, -4) !== b.mode.slice(0, -4)) what.push('kind');
  if (a.sha256 !== b.sha256) what.push('content');
  if (a.mode.slice(-4) !== b.mode.slice(-4)) what.push('mode');
  if (a.uid !== b.uid || a.gid !== b.gid) what.push('owner');
  if (a.mtime !== b.mtime) what.push('time');
  return what;
}

/** Entries by name, the last of several: the one in force. */
const inForce = (entries: readonly EntryReport[]) => new Map(entries.map((entry) => [entry.nameHex, entry]));

/** What one list of entries has that the other has not; the same content under another name is a move. */
export function compareEntries(a: readonly EntryReport[], b: readonly EntryReport[]): EntryComparison {
  const [left, right] = [inForce(a), inForce(b)];
  const removed = new Map([...left].filter(([name]) => !right.has(name)));
  const added = new Map([...right].filter(([name]) => !left.has(name)));
  const changed: ChangedEntry[] = [];
  let same = 0;
  for (const [name, entry] of left) {
    const other = right.get(name);
    if (!other) continue;
    const what = differences(entry, other);
    if (what.length === 0) same += 1;
    else changed.push({ name: entry.name, what, a: entry, b: other });
  }
  const moved: { from: string; to: string; sha256: string }[] = [];
  // a replaced entry may live on under another name: its old content is looked for as well
  const origins = [
    ...removed.values(),
    ...changed.filter(({ what }) => what.includes('content')).map((one) => one.a),
  ];
  for (const entry of origins) {
    if (entry.size === 0) continue;
    const target = [...added.values()].find((one) => one.sha256 === entry.sha256 && one.mode === entry.mode);
    if (!target) continue;
    moved.push({ from: entry.name, to: target.name, sha256: entry.sha256 });
    added.delete(target.nameHex);
    removed.delete(entry.nameHex);
  }
  return { same, added: [...added.values()], removed: [...removed.values()], changed, moved };
}

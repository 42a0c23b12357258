import { expose, transfer } from 'comlink';
import { outcome } from '@/contracts/outcome';
import type { ByteSource } from '@/core/bytes/byte-source';
import { toHex } from '@/core/bytes/bytes';
import { EternoError } from '@/core/errors';
import type { CpioEntry } from '@/core/formats/cpio/cpio-archive';
import { archivesOf } from '@/core/formats/cpio/ramdisk';
import { byteRegions } from '@/core/packages/byte-regions';
import type { EntryRow } from '@/core/packages/entry-rows';
import { entryRows } from '@/core/packages/entry-rows';
import type { ImageReport } from '@/core/packages/inspect-image';
import { examineImage } from '@/core/packages/inspect-image';
import type { RamdiskReport } from '@/core/packages/list-ramdisk';
import { describeRamdisks } from '@/core/packages/list-ramdisk';
import { identifyImage } from '@/core/packages/bare-image';
import type { JudgedSide } from '@/core/judge/judged-side';
import { textsOf } from '@/core/judge/judged-side';
import { unwrap } from '@/core/packages/unwrap';
import { readKit } from '@/core/kits/read-kit';
import { monthToMonth } from '@/core/lineage/month-to-month';
import { compareReports } from '@/core/patch/compare-images';
import { judgePatched } from '@/core/judge/judge-patched';
import { blobSource } from '@/platform/browser/blob-source';
import { pooledPorts } from '../codec/pooled-ports';
import type { ImageWorkerApi } from './protocol';

interface Side {
  readonly source: ByteSource;
  readonly report: ImageReport;
  readonly ramdisk: RamdiskReport | null;
  readonly judged: JudgedSide;
  /** The entry in force by its name. */
  readonly entries: ReadonlyMap<string, CpioEntry>;
}

const LONGEST_SHOWN_BYTES = 2 * 1024 * 1024;
/** What was compared last. */
let held: { readonly stock: JudgedSide; readonly made: JudgedSide } | null = null;
let rows: readonly EntryRow[] = [];
const sides: { own: Side | null; other: Side | null } = { own: null, other: null };

async function take(image: Blob, name: string): Promise<Side> {
  const { source } = await unwrap(blobSource(image, name), pooledPorts);
  const { report, ramdisks } = await examineImage(source, pooledPorts);
  const ramdisk = ramdisks.length > 0 ? await describeRamdisks(ramdisks, pooledPorts) : null;
  const entries = new Map(
    ramdisks
      .flatMap(archivesOf)
      .flatMap((archive) => archive.entries.map((entry) => [toHex(entry.name), entry] as const)),
  );
  const judged = {
    report,
    identity: await identifyImage(source, pooledPorts),
    entries: ramdisk && ramdisk.archives.flatMap((archive) => archive.entries),
    texts: textsOf(ramdisks),
  };
  return { source, report, ramdisk, judged, entries };
}

const api: ImageWorkerApi = {
  open: (image) =>
    outcome(async () => {
      const own = await take(image, 'image');
      sides.own = own;
      rows = own.ramdisk ? entryRows(own.ramdisk) : [];
      return {
        report: own.report,
        regions: await byteRegions(own.source, own.report),
        entries: own.ramdisk ? rows.length : null,
      };
    }),
  rows: async (start, end) => rows.slice(start, end),
  compare: (image, ownIs) =>
    outcome(async () => {
      const { own } = sides;
      if (!own) throw new EternoError('internal', 'no image is open');
      const other = await take(image, 'the other image');
      sides.other = other;
      const [stock, made] = ownIs === 'stock' ? [own.judged, other.judged] : [other.judged, own.judged];
      held = { stock, made };
      return {
        report: other.report,
        comparison: compareReports(stock, made),
        judged: judgePatched(stock, made),
        months: monthToMonth(compareReports(other.judged, own.judged)),
      };
    }),
  judgeWithKit: (kit) =>
    outcome(async () => {
      if (!held) throw new EternoError('internal', 'no image stands beside the open one');
      const read = await readKit(blobSource(kit, 'the kit'), pooledPorts);
      return judgePatched(held.stock, held.made, read.kit);
    }),
  async read(side, nameHex) {
    const result = await outcome(async () => {
      const entry = sides[side]?.entries.get(nameHex);
      return entry
        ? { bytes: entry.data.slice(0, LONGEST_SHOWN_BYTES).buffer as ArrayBuffer, size: entry.data.length }
        : null;
    });
    return result.ok && result.value ? transfer(result, [result.value.bytes]) : result;
  },
};

expose(api);

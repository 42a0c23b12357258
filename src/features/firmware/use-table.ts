'use client';
import { useCallback, useMemo, useRef, useState } from 'react';
import type { HandsetFit } from '@/contracts/firmware-view';
import type { ErrorData } from '@/core/errors';
import type { PackageReport } from '@/core/packages/package-report';
import { parseChecksums } from '@/core/table/checksum-list';
import type { FileOnTable, FileSource } from '@/core/table/roll-call';
import { rollCall } from '@/core/table/roll-call';
import type { FirmwareClient } from '@/workers/firmware/firmware-client';
import { fileSourceAction, fitFileAction, tellFileSourceAction } from './actions';

/** A file put on the table, and what it was found to be. */
export interface TableEntry {
  readonly file: File;
  readonly found: FileOnTable | null;
  readonly fits: readonly HandsetFit[];
  /** Where it came from, as the person said. */
  readonly source: FileSource;
  readonly error: ErrorData | null;
}

const OPENS: readonly string[] = [
  'package',
  'incremental package',
  'part of a set',
  'image',
  'kit',
  'list of writes',
  'module',
  'installer for a recovery',
  'uninstaller',
];
export const canOpen = (entry: TableEntry) => entry.found !== null && OPENS.includes(entry.found.role);

/**
 * Told what a file is. What it gives back is how that file fits each handset, where it is judged there; else
 * the table asks.
 */
type OnCalled = (entry: TableEntry) => Promise<readonly HandsetFit[] | null> | null;

const sameFile = (a: File, b: File) =>
  a.name === b.name && a.size === b.size && a.lastModified === b.lastModified;
const LONGEST_CHECKSUMS_BYTES = 256 * 1024;

async function fitsOf(
  file: File,
  report: PackageReport,
  judged: ReturnType<OnCalled>,
): Promise<readonly HandsetFit[] | null> {
  const already = await judged;
  if (already) return already;
  const asked = await fitFileAction({ fileName: file.name, sizeBytes: file.size, report });
  return asked.ok ? asked.value : null;
}

/**
 * Everything dropped here: called one after another in the room's worker, held against each other and against
 * the bench.
 */
export function useTable(client: () => FirmwareClient) {
  const [entries, setEntries] = useState<readonly TableEntry[]>([]);
  const [calling, setCalling] = useState<string | null>(null);
  const [sumText, setSumText] = useState('');
  /** What was called before the table was cleared counts no more. */
  const turn = useRef(0);
  const waiting = useRef<{ readonly file: File; readonly onCalled: OnCalled }[]>([]);

  const settle = useCallback((file: File, change: Partial<TableEntry>) => {
    setEntries((now) => now.map((entry) => (sameFile(entry.file, file) ? { ...entry, ...change } : entry)));
  }, []);

  const callNext = useCallback(async () => {
    const mine = turn.current;
    for (let next = waiting.current.shift(); next; next = waiting.current.shift()) {
      const { file, onCalled } = next;
      setCalling(file.name);
      const called = await client().call(file);
      if (turn.current !== mine) return;
      const judged = onCalled({
        file,
        found: called.ok ? called.value : null,
        fits: [],
        source: 'not said',
        error: called.ok ? null : called.error,
      });
      if (!called.ok) settle(file, { error: called.error });
      else {
        const found = called.value;
        const said = await fileSourceAction({ fileName: file.name, sizeBytes: file.size });
        settle(file, { found, ...(said.ok ? { source: said.value } : {}) });
        if (found.role === 'checksums' && file.size <= LONGEST_CHECKSUMS_BYTES) {
          const text = await file.text();
          setSumText((now) => (now.includes(text) ? now : `${now}${text}\n`));
        }
        if (found.report && found.report.images.length > 0) {
          const fits = await fitsOf(file, found.report, judged);
          if (fits) settle(file, { fits });
        }
      }
    }
    setCalling(null);
  }, [client, settle]);

  const put = useCallback(
    (files: readonly File[], onCalled: OnCalled) => {
      const idle = waiting.current.length === 0 && calling === null;
      setEntries((now) => {
        const fresh = files.filter((file) => !now.some((entry) => sameFile(entry.file, file)));
        return [
          ...now,
          ...fresh.map((file) => ({ file, found: null, fits: [], source: 'not said' as const, error: null })),
        ];
      });
      waiting.current.push(...files.map((file) => ({ file, onCalled })));
      if (idle) void callNext();
    },
    [callNext, calling],
  );

  /** Stops the roll-call; what was not called yet is taken off the table. */
  const stop = useCallback(() => {
    turn.current += 1;
    void client().cancel('calls');
    waiting.current = [];
    setCalling(null);
    setEntries((now) => now.filter((entry) => entry.found !== null || entry.error !== null));
  }, [client]);

  const clear = useCallback(() => {
    stop();
    setEntries([]);
    setSumText('');
  }, [stop]);

  const notes = useMemo(() => {
    const called = entries.filter((entry) => entry.found !== null);
    const found = rollCall(
      called.map((entry) => entry.found!),
      called.map((entry) => entry.fits.map(({ fit }) => fit.verdict)),
    );
    return new Map(called.map((entry, i) => [entry.file, found[i]!]));
  }, [entries]);

  /** Remembers where a file came from. */
  const tellSource = useCallback(
    (file: File, source: FileSource) => {
      settle(file, { source });
      void tellFileSourceAction({ fileName: file.name, sizeBytes: file.size, source });
    },
    [settle],
  );

  /** Files that make one package with this one: the other parts of its set, or the files its list names. */
  const companions = useCallback(
    (file: File): File[] => {
      const role = entries.find((entry) => entry.file === file)?.found?.role;
      const group =
        role === 'part of a set'
          ? ['part of a set']
          : role === 'list of writes'
            ? ['list of writes', 'image', 'unknown']
            : [];
      const others = entries.filter(
        (entry) => entry.file !== file && entry.found && group.includes(entry.found.role),
      );
      return [file, ...others.map((entry) => entry.file)];
    },
    [entries],
  );

  return {
    entries,
    notes,
    calling,
    put,
    stop,
    clear,
    companions,
    tellSource,
    sums: useMemo(() => parseChecksums(sumText), [sumText]),
  };
}

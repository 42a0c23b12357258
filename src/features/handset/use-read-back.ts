'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import type { RecognisedFile } from '@/contracts/handset-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { unsettle } from '@/core/outcome';
import type { Progress } from '@/core/ports';
import type { OpenedReadBack } from '@/core/slots/read-back';
import { sendImage } from '@/ui/send';
import { FirmwareClient } from '@/workers/firmware/firmware-client';
import { imagesOnHandsetsAction, keepReadBackAction, recogniseAction } from './actions';

/** A file of the table: what was found, and where the person says it was read from. */
export interface ReadBackRow {
  readonly found: RecognisedFile;
  readonly slot: string | null;
  readonly blob: Blob;
}

/**
 * Brings files that were read out of a handset: hashed and looked into in the browser, recognised by the
 * server, kept where they are new.
 */
export function useReadBack(handsetId: string, oneSlot: boolean) {
  const router = useRouter();
  const client = useRef<FirmwareClient | null>(null);
  const [rows, setRows] = useState<readonly ReadBackRow[]>([]);
  const [work, setWork] = useState<Progress | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  useEffect(() => () => client.current?.end(), []);

  async function guarded(job: () => Promise<void>) {
    setError(null);
    try {
      await job();
    } catch (thrown) {
      setError(toEternoError(thrown).toData());
    } finally {
      setWork(null);
    }
  }

  const bring = (files: readonly File[]) =>
    guarded(async () => {
      setWork({ phase: 'hash', doneBytes: 0, totalBytes: files.reduce((sum, file) => sum + file.size, 0) });
      client.current ??= new FirmwareClient();
      const known = unsettle(await imagesOnHandsetsAction());
      const opened = unsettle(await client.current.readBack(files, known, setWork));
      const described = opened.map(({ file: { named, ...file } }) => ({
        ...file,
        partition: named?.partition ?? file.holds,
        slot: oneSlot ? '-' : (named?.slot ?? null),
      }));
      const found = unsettle(await recogniseAction({ handsetId, files: described }));
      setRows(found.map((one, i) => ({ found: one, slot: one.slot, blob: sliceOf(files, opened[i]!) })));
    });

  const keep = () =>
    guarded(async () => {
      const chosen = rows.filter(
        (row): row is ReadBackRow & { slot: string } => row.slot !== null && row.found.partition !== null,
      );
      const totalBytes = chosen.reduce((sum, row) => sum + row.found.sizeBytes, 0);
      let doneBytes = 0;
      for (const { found, blob } of chosen) {
        setWork({ phase: 'send', doneBytes, totalBytes });
        if (!found.inVault && found.problem === null)
          await sendImage(found.sha256!, blob, {
            from: 'read-back',
            partition: found.partition!,
            name: found.fileName.slice(-255),
          });
        doneBytes += found.sizeBytes;
      }
      const files = chosen.map(({ found, slot }) => ({
        partition: found.partition!,
        slot,
        sha256: found.sha256!,
      }));
      unsettle(await keepReadBackAction({ handsetId, files }));
      setRows([]);
      router.refresh();
    });

  return {
    rows,
    work,
    error,
    bring,
    keep,
    stop: () => void client.current?.cancel('work'),
    putAway: () => setRows([]),
    dismiss: () => setError(null),
    setSlot: (index: number, slot: string) =>
      setRows((known) => known.map((row, i) => (i === index ? { ...row, slot } : row))),
  };
}

const sliceOf = (files: readonly File[], { place }: OpenedReadBack) =>
  files[place.index]!.slice(place.start, place.end);

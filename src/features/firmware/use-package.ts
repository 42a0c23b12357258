'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useRef, useState } from 'react';
import type { PackageJudgement } from '@/contracts/firmware-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { PackageContent, PackageReport } from '@/core/packages/package-report';
import type { Progress } from '@/core/ports';
import { secondsLeft } from '@/ui/format';
import { fetchFromVault, sendImage } from '@/ui/send';
import type { FirmwareClient, PatchSigns, ReadSoFar } from '@/workers/firmware/firmware-client';
import { forgetPackageAction } from './actions';
import { holdFiles } from './held-files';
import { keepOpened } from './keep-opened';

export interface OpenPackage extends PackageJudgement {
  /** The first of the files that make it. */
  readonly file: File;
  readonly fileNames: readonly string[];
  readonly sizeBytes: number;
  readonly report: PackageReport;
  readonly contents: readonly PackageContent[];
  readonly signs: PatchSigns | null;
}

export interface TakenImage {
  readonly partition: string;
  readonly sha256: string;
  readonly size: number;
  readonly verified: boolean;
  readonly bytesRead: number;
  readonly seconds: number;
}

export type PackageWork =
  | { readonly kind: 'idle' }
  | { readonly kind: 'opening'; readonly fileName: string; readonly sizeBytes: number }
  | {
      readonly kind: 'taking';
      readonly partition: string;
      readonly progress: Progress | null;
      readonly secondsLeft: number | null;
      readonly left: number;
    }
  | { readonly kind: 'keeping'; readonly partition: string; readonly left: number };

/** One package, read in place by the room's worker: opened, judged, images taken out of it into the vault. */
export function usePackage(client: () => FirmwareClient) {
  const router = useRouter();
  /** What was begun for a package before this one counts no more. */
  const turn = useRef(0);
  const stopped = useRef(false);
  const [pack, setPack] = useState<OpenPackage | null>(null);
  const [work, setWork] = useState<PackageWork>({ kind: 'idle' });
  const [read, setRead] = useState<ReadSoFar>({ bytesRead: 0, ranges: [] });
  const [taken, setTaken] = useState<readonly TakenImage[]>([]);
  const [error, setError] = useState<ErrorData | null>(null);

  /** Puts the open package away, and ends what is done with it. */
  const close = useCallback(() => {
    turn.current += 1;
    stopped.current = true;
    void client().cancel('work');
    setPack(null);
    setError(null);
    setWork({ kind: 'idle' });
  }, [client]);

  const open = useCallback(
    async (files: readonly File[]): Promise<PackageJudgement['fits'] | null> => {
      close();
      const mine = turn.current;
      const file = files[0]!;
      const sizeBytes = files.reduce((sum, one) => sum + one.size, 0);
      setTaken([]);
      setRead({ bytesRead: 0, ranges: [] });
      setWork({ kind: 'opening', fileName: file.name, sizeBytes });
      const opened = await client().open(files, (soFar) =>
        turn.current === mine ? setRead(soFar) : undefined,
      );
      if (turn.current !== mine) return null;
      if (!opened.ok) {
        setWork({ kind: 'idle' });
        setError(opened.error);
        return null;
      }
      setRead(opened.value);
      const { report, contents, opening, signs } = opened.value;
      const judged = await keepOpened({ files, opening, sizeBytes, report });
      if (turn.current !== mine) return null;
      setWork({ kind: 'idle' });
      if (!judged.ok) {
        setError(judged.error);
        return null;
      }
      holdFiles(files);
      const fileNames = files.map((one) => one.name);
      setPack({ file, fileNames, sizeBytes, report, contents, signs, ...judged.value });
      return judged.value.fits;
    },
    [client, close],
  );

  /** Takes one image out and keeps it. */
  const takeOne = useCallback(
    async (
      mine: number,
      from: OpenPackage,
      partition: string,
      left: number,
      given: Blob | null,
    ): Promise<void> => {
      const beganAt = performance.now();
      setWork({ kind: 'taking', partition, progress: null, secondsLeft: null, left });
      try {
        const pristine = from.pristine.find((one) => one.partition === partition);
        const old = given ?? (pristine?.inVault ? await fetchFromVault('images', pristine.sha256) : null);
        const result = await client().take(partition, old, (progress, soFar) => {
          const seconds = secondsLeft(
            progress.doneBytes,
            progress.totalBytes,
            (performance.now() - beganAt) / 1000,
          );
          setWork((now) => (now.kind === 'taking' ? { ...now, progress, secondsLeft: seconds } : now));
          setRead(soFar);
        });
        if (turn.current !== mine) return;
        if (!result.ok) {
          // a package that turned out damaged is not remembered as if it were whole
          if (
            !['cancelled', 'not-found', 'wrong-source', 'unsupported', 'too-large', 'duplicate'].includes(
              result.error.code,
            )
          )
            await forgetPackageAction({ fileName: from.file.name, sizeBytes: from.sizeBytes });
          setError((first) => first ?? result.error);
          return;
        }
        const { sha256, size, verified, bytesRead, image } = result.value;
        setRead(result.value);
        setWork({ kind: 'keeping', partition, left });
        await sendImage(sha256, image, {
          from: 'package',
          package: from.file.name,
          partition,
          verified: verified ? 'yes' : 'no',
        });
        if (turn.current !== mine) return;
        const seconds = (performance.now() - beganAt) / 1000;
        setTaken((known) => [
          ...known.filter((one) => one.partition !== partition),
          { partition, sha256, size, verified, bytesRead, seconds },
        ]);
      } catch (thrown) {
        setError((first) => first ?? toEternoError(thrown).toData());
      }
    },
    [client],
  );

  const take = useCallback(
    async (partitions: readonly string[], given: Blob | null = null) => {
      const mine = turn.current;
      if (!pack) return;
      setError(null);
      stopped.current = false;
      // one that can't be taken out keeps no other back; the first error is the one that is shown
      for (const [i, partition] of partitions.entries()) {
        if (stopped.current || turn.current !== mine) break;
        await takeOne(mine, pack, partition, partitions.length - 1 - i, given);
      }
      if (turn.current !== mine) return;
      setWork({ kind: 'idle' });
      router.refresh();
    },
    [pack, router, takeOne],
  );

  /** Stops what is under way. Opening is thrown away whole; taking out ends at its next operation. */
  const stop = useCallback(() => {
    if (work.kind === 'opening') return close();
    stopped.current = true;
    void client().cancel('work');
  }, [client, close, work.kind]);

  return { pack, work, read, taken, error, setError, open, close, take, stop };
}

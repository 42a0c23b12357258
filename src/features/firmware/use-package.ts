'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { PackageJudgement } from '@/contracts/firmware-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { PackageContent, PackageReport } from '@/core/packages/package-report';
import type { Progress } from '@/core/ports';
import { secondsLeft } from '@/ui/format';
import { fetchFromVault, sendImage } from '@/ui/send';
import type { ReadSoFar } from '@/workers/firmware/firmware-client';
import { FirmwareClient } from '@/workers/firmware/firmware-client';
import { forgetPackageAction, keepPackageAction } from './actions';

export interface OpenPackage extends PackageJudgement {
  /** The first of the files that make it. */
  readonly file: File;
  readonly fileNames: readonly string[];
  readonly sizeBytes: number;
  readonly report: PackageReport;
  readonly contents: readonly PackageContent[];
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

/** One package, read in place by a worker: opened, judged, images taken out of it into the vault. */
export function usePackage() {
  const router = useRouter();
  const client = useRef<FirmwareClient | null>(null);
  const stopped = useRef(false);
  const [pack, setPack] = useState<OpenPackage | null>(null);
  const [work, setWork] = useState<PackageWork>({ kind: 'idle' });
  const [read, setRead] = useState<ReadSoFar>({ bytesRead: 0, ranges: [] });
  const [taken, setTaken] = useState<readonly TakenImage[]>([]);
  const [error, setError] = useState<ErrorData | null>(null);

  useEffect(() => () => client.current?.end(), []);

  const open = useCallback(async (files: readonly File[]) => {
    client.current?.end();
    const mine = new FirmwareClient();
    client.current = mine;
    const file = files[0]!;
    setPack(null);
    setTaken([]);
    setError(null);
    setRead({ bytesRead: 0, ranges: [] });
    setWork({ kind: 'opening', fileName: file.name, sizeBytes: files.reduce((sum, one) => sum + one.size, 0) });
    const opened = await mine.open(files, (soFar) => (client.current === mine ? setRead(soFar) : undefined));
    if (client.current !== mine) return;
    setWork({ kind: 'idle' });
    if (!opened.ok) return setError(opened.error);
    setRead(opened.value);
    const { report, contents } = opened.value;
    const sizeBytes = files.reduce((sum, one) => sum + one.size, 0);
    const judged = await keepPackageAction({ fileName: file.name, sizeBytes, report });
    if (client.current !== mine) return;
    if (judged.ok) setPack({ file, fileNames: files.map((one) => one.name), sizeBytes, report, contents, ...judged.value });
    else setError(judged.error);
  }, []);

  /** Takes one image out and keeps it; whether it worked. */
  const takeOne = useCallback(
    async (mine: FirmwareClient, from: OpenPackage, partition: string, left: number, given: Blob | null): Promise<boolean> => {
      const beganAt = performance.now();
      setWork({ kind: 'taking', partition, progress: null, secondsLeft: null, left });
      try {
        const pristine = from.pristine.find((one) => one.partition === partition);
        const old = given ?? (pristine?.inVault ? await fetchFromVault('images', pristine.sha256) : null);
        const result = await mine.take(partition, old, (progress, soFar) => {
          const seconds = secondsLeft(progress.doneBytes, progress.totalBytes, (performance.now() - beganAt) / 1000);
          setWork((now) => (now.kind === 'taking' ? { ...now, progress, secondsLeft: seconds } : now));
          setRead(soFar);
        });
        if (client.current !== mine) return false;
        if (!result.ok) {
          // a package that turned out damaged is not remembered as if it were whole
          if (!['cancelled', 'not-found', 'wrong-source', 'unsupported', 'too-large'].includes(result.error.code))
            await forgetPackageAction({ fileName: from.file.name, sizeBytes: from.sizeBytes });
          setError(result.error);
          return false;
        }
        const { sha256, size, verified, bytesRead, image } = result.value;
        setRead(result.value);
        setWork({ kind: 'keeping', partition, left });
        await sendImage(sha256, image, { from: 'package', package: from.file.name, partition, verified: verified ? 'yes' : 'no' });
        const seconds = (performance.now() - beganAt) / 1000;
        setTaken((known) => [...known.filter((one) => one.partition !== partition), { partition, sha256, size, verified, bytesRead, seconds }]);
        return true;
      } catch (thrown) {
        setError(toEternoError(thrown).toData());
        return false;
      }
    },
    [],
  );

  const take = useCallback(
    async (partitions: readonly string[], given: Blob | null = null) => {
      const mine = client.current;
      if (!mine || !pack) return;
      setError(null);
      stopped.current = false;
      for (const [i, partition] of partitions.entries()) {
        if (stopped.current || !(await takeOne(mine, pack, partition, partitions.length - 1 - i, given))) break;
      }
      if (client.current !== mine) return;
      setWork({ kind: 'idle' });
      router.refresh();
    },
    [pack, router, takeOne],
  );

  /** Stops what is under way. Opening is thrown away whole; taking out ends at its next operation. */
  const stop = useCallback(() => {
    stopped.current = true;
    if (work.kind === 'opening') {
      client.current?.end();
      client.current = null;
      setWork({ kind: 'idle' });
    } else void client.current?.cancel();
  }, [work.kind]);

  /** Puts the open package away. */
  const close = useCallback(() => {
    client.current?.end();
    client.current = null;
    setPack(null);
    setError(null);
    setWork({ kind: 'idle' });
  }, []);

  return { pack, work, read, taken, error, setError, open, close, take, stop };
}

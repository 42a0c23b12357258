'use client';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { PackageReport } from '@/core/packages/package-report';
import type { Progress } from '@/core/ports';
import type { HandsetFit } from '@/contracts/firmware-view';
import type { ReadSoFar } from '@/workers/firmware/firmware-client';
import { FirmwareClient } from '@/workers/firmware/firmware-client';
import { forgetPackageAction, keepPackageAction } from './actions';
import { uploadImage } from './upload';

export interface OpenPackage {
  readonly file: File;
  readonly report: PackageReport;
  readonly fits: readonly HandsetFit[];
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
  | { readonly kind: 'opening'; readonly fileName: string }
  | { readonly kind: 'taking'; readonly partition: string; readonly progress: Progress | null }
  | { readonly kind: 'keeping'; readonly partition: string };

/** One package, read in place by a worker: opened, judged, images taken out of it into the vault. */
export function usePackage() {
  const router = useRouter();
  const client = useRef<FirmwareClient | null>(null);
  const [pack, setPack] = useState<OpenPackage | null>(null);
  const [work, setWork] = useState<PackageWork>({ kind: 'idle' });
  const [read, setRead] = useState<ReadSoFar>({ bytesRead: 0, ranges: [] });
  const [taken, setTaken] = useState<readonly TakenImage[]>([]);
  const [error, setError] = useState<ErrorData | null>(null);

  useEffect(() => () => client.current?.end(), []);

  const open = useCallback(async (file: File) => {
    client.current?.end();
    const mine = new FirmwareClient();
    client.current = mine;
    setPack(null);
    setTaken([]);
    setError(null);
    setWork({ kind: 'opening', fileName: file.name });
    const opened = await mine.open(file);
    if (client.current !== mine) return;
    setWork({ kind: 'idle' });
    if (!opened.ok) return setError(opened.error);
    setRead(opened.value);
    const { report } = opened.value;
    const fits = await keepPackageAction({ fileName: file.name, sizeBytes: file.size, report });
    if (client.current !== mine) return;
    if (fits.ok) setPack({ file, report, fits: fits.value });
    else setError(fits.error);
  }, []);

  const take = useCallback(
    async (partition: string) => {
      const mine = client.current;
      if (!mine || !pack) return;
      setError(null);
      setWork({ kind: 'taking', partition, progress: null });
      const began = performance.now();
      const result = await mine.take(partition, (progress, soFar) => {
        setWork((now) => (now.kind === 'taking' ? { kind: 'taking', partition, progress } : now));
        setRead(soFar);
      });
      if (client.current !== mine) return;
      if (!result.ok) {
        setWork({ kind: 'idle' });
        // a package that turned out damaged is not remembered as if it were whole
        if (result.error.code !== 'cancelled') await forgetPackageAction({ fileName: pack.file.name, sizeBytes: pack.file.size });
        return setError(result.error);
      }
      const { sha256, size, verified, bytesRead, bytes } = result.value;
      setRead(result.value);
      setWork({ kind: 'keeping', partition });
      try {
        await uploadImage(sha256, bytes, { from: 'package', package: pack.file.name, partition, verified: verified ? 'yes' : 'no' });
        setTaken((known) => [
          ...known.filter((one) => one.partition !== partition),
          { partition, sha256, size, verified, bytesRead, seconds: (performance.now() - began) / 1000 },
        ]);
        router.refresh();
      } catch (thrown) {
        setError(toEternoError(thrown).toData());
      }
      setWork({ kind: 'idle' });
    },
    [pack, router],
  );

  /** Stops what is under way. Opening is thrown away whole; taking out ends at its next operation. */
  const stop = useCallback(() => {
    if (work.kind === 'opening') {
      client.current?.end();
      client.current = null;
      setWork({ kind: 'idle' });
    } else void client.current?.cancel();
  }, [work.kind]);

  return { pack, work, read, taken, error, setError, open, take, stop };
}

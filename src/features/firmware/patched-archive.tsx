'use client';
import { Button, Progress } from 'antd';
import { useEffect, useState } from 'react';
import type { PackageContent, PackageReport } from '@/core/packages/package-report';
import type { Progress as Done } from '@/core/ports';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import { fetchFromVault } from '@/ui/send';
import type { FirmwareClient, RepackedInWorker } from '@/workers/firmware/firmware-client';
import { patchedImageAction } from './actions';
import styles from './firmware.module.css';

interface Props {
  readonly report: PackageReport;
  readonly contents: readonly PackageContent[];
  readonly busy: boolean;
  readonly client: () => FirmwareClient;
}

/** Partitions that carry root, the likeliest first. */
const ROOT_PLACES = ['init_boot', 'boot', 'recovery'] as const;
const rootPlaceOf = ({ report, contents }: Pick<Props, 'report' | 'contents'>) =>
  report.kind === 'tar-set'
    ? (ROOT_PLACES.find((place) => contents.some(({ partition }) => partition === place)) ?? null)
    : null;

/** The set's own system archive, written again here with the patched image in it and proved member by member. */
export function PatchedArchive({ report, contents, busy, client }: Props) {
  const [done, setDone] = useState<Done | null>(null);
  const [made, setMade] = useState<RepackedInWorker | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  const partition = rootPlaceOf({ report, contents });
  const { fingerprint } = report.build;
  if (partition === null || fingerprint === null) return null;
  const make = async () => {
    setError(null);
    setMade(null);
    const image = await patchedImageAction({ fingerprint, partition });
    if (!image.ok) return setError(image.error);
    setDone({ phase: 'repack', doneBytes: 0, totalBytes: 1 });
    try {
      const patched = await fetchFromVault('images', image.value.sha256);
      const result = await client().repack(partition, patched, setDone);
      if (result.ok) setMade(result.value);
      else if (result.error.code !== 'cancelled') setError(result.error);
    } catch (thrown) {
      setError(toEternoError(thrown).toData());
    } finally {
      setDone(null);
    }
  };
  return (
    <section aria-label="The patched archive">
      <h3 style={{ marginTop: 16 }}>The patched archive</h3>
      <p className="soft">
        Where the set is written with a tool of your own: its system archive with the patched {partition} in
        place of the stock one. Everything else in it stays the maker’s, byte for byte.
      </p>
      {made ? <Made made={made} partition={partition} /> : null}
      {done ? (
        <>
          <Progress
            percent={Math.round((100 * done.doneBytes) / Math.max(1, done.totalBytes))}
            size="small"
            aria-label="Writing the archive"
          />
          <Button onClick={() => void client().cancel('work')}>Stop</Button>
        </>
      ) : (
        <Button disabled={busy} onClick={() => void make()}>
          {made ? 'Make it again' : 'Make the patched archive'}
        </Button>
      )}
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </section>
  );
}

function Made({ made, partition }: { readonly made: RepackedInWorker; readonly partition: string }) {
  const [href, setHref] = useState<string | null>(null);
  useEffect(() => {
    const url = URL.createObjectURL(made.file);
    // the address of a file lives as long as the page shows it
    const shown = setTimeout(() => setHref(url), 0);
    return () => {
      clearTimeout(shown);
      URL.revokeObjectURL(url);
    };
  }, [made]);
  return (
    <p role="status" className={styles.taken}>
      <b>✓ Read back and proved</b>: {partition} is the patched one,{' '}
      {made.kept === 1 ? 'the other member is' : `the other ${made.kept} members are`} the maker’s
      {made.md5 === null ? '.' : `, its check line is new: ${made.md5}.`}{' '}
      {href ? (
        <a href={href} download={made.name}>
          Download {made.name}, {formatBytes(made.size)}
        </a>
      ) : null}
    </p>
  );
}

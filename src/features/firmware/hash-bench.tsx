'use client';
import { Button, Input, Progress } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { FileMemory } from '@/contracts/firmware-view';
import type { ErrorData } from '@/core/errors';
import type { StatedChecksum } from '@/core/table/checksum-list';
import { checkAgainst, parseChecksums } from '@/core/table/checksum-list';
import type { Progress as Done } from '@/core/ports';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes, formatSeconds, formatTime, secondsLeft } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import type { Digested } from '@/workers/firmware/firmware-client';
import { FirmwareClient } from '@/workers/firmware/firmware-client';
import { rememberHashAction } from './actions';
import styles from './firmware.module.css';

interface Props {
  readonly file: File;
  /** From checksum files on the table. */
  readonly stated: readonly StatedChecksum[];
  readonly startsAtOnce?: boolean;
}

interface HashWork {
  readonly progress: Done | null;
  /** Seconds. */
  readonly left: number | null;
}

const NAMES = [
  ['sha256', 'SHA-256'],
  ['sha1', 'SHA-1'],
  ['md5', 'MD5'],
] as const;

/** A file's digests, made in two workers at once, and what the log knows of the file. */
function useDigests(file: File, startsAtOnce: boolean) {
  const [work, setWork] = useState<HashWork | null>(null);
  const [digests, setDigests] = useState<Required<Digested> | null>(null);
  const [memory, setMemory] = useState<FileMemory | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  const clients = useRef<readonly FirmwareClient[]>([]);
  const end = useCallback(() => {
    for (const client of clients.current) client.end();
    clients.current = [];
  }, []);
  const run = useCallback(async () => {
    end();
    // the longest takes a thread of its own
    const mine = [new FirmwareClient(), new FirmwareClient()] as const;
    clients.current = mine;
    setError(null);
    setWork({ progress: null, left: null });
    const beganAt = performance.now();
    const tell = (progress: Done) =>
      setWork({
        progress,
        left: secondsLeft(progress.doneBytes, progress.totalBytes, (performance.now() - beganAt) / 1000),
      });
    const [long, short] = await Promise.all([
      mine[0].digest(file, ['sha256'], tell),
      mine[1].digest(file, ['sha1', 'md5'], () => undefined),
    ]);
    if (clients.current !== mine) return;
    end();
    setWork(null);
    if (!long.ok) return setError(long.error);
    if (!short.ok) return setError(short.error);
    const found = { ...long.value, ...short.value } as Required<Digested>;
    setDigests(found);
    const { sha256 } = found;
    const seen = await rememberHashAction({ fileName: file.name, sizeBytes: file.size, sha256 });
    if (seen.ok) setMemory(seen.value);
  }, [end, file]);
  useEffect(() => {
    const begin = startsAtOnce ? setTimeout(() => void run(), 0) : undefined;
    return () => {
      clearTimeout(begin);
      end();
    };
  }, [end, run, startsAtOnce]);
  const stop = () => {
    end();
    setWork(null);
  };
  return { work, digests, memory, error, dismiss: () => setError(null), run, stop };
}

/** The whole file's digests, held against a pasted value or a checksum file. */
export function HashBench({ file, stated, startsAtOnce = false }: Props) {
  const { work, digests, memory, error, dismiss, run, stop } = useDigests(file, startsAtOnce);
  const [pasted, setPasted] = useState('');
  const fromPasted = pasted.trim() !== '';
  const given = fromPasted ? parseChecksums(pasted) : stated;
  return (
    <section className={styles.hashBench} aria-label="Hash bench">
      <div className={styles.jobHead}>
        <b>Is the file whole?</b>
        <span className="soft small">
          {work
            ? progressWords(work)
            : digests
              ? file.name
              : `${file.name}, ${formatBytes(file.size)}: SHA-256, SHA-1 and MD5 in one reading, to hold against what the maker publishes`}
        </span>
        <Button size="small" onClick={() => (work ? stop() : void run())}>
          {work ? 'Stop' : digests ? 'Hash it again' : 'Hash the file'}
        </Button>
      </div>
      {work?.progress ? (
        <Progress
          percent={Math.round((100 * work.progress.doneBytes) / work.progress.totalBytes)}
          showInfo={false}
          size="small"
          aria-label="Hashing"
        />
      ) : null}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {digests ? <DigestTable digests={digests} /> : null}
      {memory ? <MemoryNote memory={memory} /> : null}
      <Input
        aria-label="Paste the value it should have"
        placeholder="Paste the value the maker publishes, or drop the checksum file beside the package"
        value={pasted}
        onChange={(event) => setPasted(event.target.value)}
        style={{ marginTop: 8 }}
      />
      {digests ? (
        <ChecksumVerdict found={checkAgainst(given, file.name, digests)} fromPasted={fromPasted} />
      ) : null}
    </section>
  );
}

const DigestTable = ({ digests }: { readonly digests: Required<Digested> }) => (
  <table className="ledger">
    <tbody>
      {NAMES.map(([key, label]) => (
        <tr key={key}>
          <td style={{ width: 90 }}>{label}</td>
          <td style={{ overflowWrap: 'anywhere' }}>
            <HashText hash={digests[key]} whole />
          </td>
        </tr>
      ))}
    </tbody>
  </table>
);

function MemoryNote({ memory: { changedFrom, firstSeenAt } }: { readonly memory: FileMemory }) {
  if (changedFrom === null)
    return <p className="soft small">First hashed here on {formatTime(firstSeenAt)}, the same since.</p>;
  return (
    <p className="bad" role="alert">
      <b>✗ Stop: it has changed.</b> A file of this name was first hashed here on {formatTime(firstSeenAt)}{' '}
      and was <HashText hash={changedFrom} /> then. Find out why before anything is taken out of it.
    </p>
  );
}

function ChecksumVerdict({
  found,
  fromPasted,
}: {
  readonly found: ReturnType<typeof checkAgainst>;
  readonly fromPasted: boolean;
}) {
  if (found.verdict === 'silent')
    return fromPasted ? <p className="soft">That is no SHA-256, SHA-1 or MD5 for this file.</p> : null;
  const holds = found.verdict === 'holds';
  return (
    <p className={holds ? '' : 'bad'} role="status">
      <b>{holds ? '✓ It is the file that was published.' : '✗ It is not the file that was published.'}</b>{' '}
      {found.stated.algorithm.toUpperCase()} {holds ? 'agrees with' : 'differs from'}{' '}
      {fromPasted ? 'what you pasted' : 'the checksum file'}
      {holds ? '.' : '. Fetch it again before anything is taken out of it.'}
    </p>
  );
}

function progressWords({ progress, left }: HashWork): string {
  if (!progress) return 'beginning';
  return `${formatBytes(progress.doneBytes)} of ${formatBytes(progress.totalBytes)}${left === null ? '' : `, ${formatSeconds(left)} left`}`;
}

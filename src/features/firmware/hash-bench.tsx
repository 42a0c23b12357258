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
import type { Digested, DigestedName } from '@/workers/firmware/firmware-client';
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

/** The two that few makers publish: made where such a one is given, else on wish. */
const OTHERS: readonly DigestedName[] = ['sha1', 'md5'];

/** A file's digests, SHA-256 in a worker of its own, and what the log knows of the file. */
function useDigests(file: File, startsAtOnce: boolean, given: readonly StatedChecksum[]) {
  const [work, setWork] = useState<HashWork | null>(null);
  const [digests, setDigests] = useState<Digested | null>(null);
  const [memory, setMemory] = useState<FileMemory | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  const clients = useRef<readonly FirmwareClient[]>([]);
  const end = useCallback(() => {
    for (const client of clients.current) client.end();
    clients.current = [];
  }, []);
  const isGiven = (name: DigestedName) => given.some(({ algorithm }) => algorithm === name);
  const also = OTHERS.filter(isGiven).join();
  const make = useCallback(
    async (rows: readonly (readonly DigestedName[])[]) => {
      end();
      const mine = rows.map(() => new FirmwareClient());
      clients.current = mine;
      setError(null);
      setWork({ progress: null, left: null });
      const beganAt = performance.now();
      const tell = (progress: Done) =>
        setWork({
          progress,
          left: secondsLeft(progress.doneBytes, progress.totalBytes, (performance.now() - beganAt) / 1000),
        });
      // the first row is the longest
      const made = await Promise.all(
        rows.map((names, i) => mine[i]!.digest(file, names, i === 0 ? tell : () => undefined)),
      );
      if (clients.current !== mine) return;
      end();
      setWork(null);
      const found: Partial<Record<DigestedName, string>> = {};
      for (const one of made) {
        if (!one.ok) return setError(one.error);
        Object.assign(found, one.value);
      }
      setDigests((before) => ({ ...before, ...found }));
      const { sha256 } = found;
      if (sha256 === undefined) return;
      const seen = await rememberHashAction({ fileName: file.name, sizeBytes: file.size, sha256 });
      if (seen.ok) setMemory(seen.value);
    },
    [end, file],
  );
  const run = useCallback(
    () => make([['sha256'], ...(also === '' ? [] : [also.split(',') as DigestedName[]])]),
    [make, also],
  );
  useEffect(() => end, [end]);
  const begun = useRef(false);
  useEffect(() => {
    if (!startsAtOnce || begun.current) return undefined;
    const begin = setTimeout(() => {
      begun.current = true;
      void run();
    }, 0);
    return () => clearTimeout(begin);
  }, [run, startsAtOnce]);
  const stop = () => {
    end();
    setWork(null);
  };
  const missing = digests === null ? [] : OTHERS.filter((name) => digests[name] === undefined);
  const more = () => make([missing]);
  return { work, digests, missing, memory, error, dismiss: () => setError(null), run, more, stop };
}

/** The whole file's digests, held against a pasted value or a checksum file. */
export function HashBench({ file, stated, startsAtOnce = false }: Props) {
  const [pasted, setPasted] = useState('');
  const fromPasted = pasted.trim() !== '';
  const given = fromPasted ? parseChecksums(pasted) : stated;
  const { work, digests, missing, memory, error, dismiss, run, more, stop } = useDigests(
    file,
    startsAtOnce,
    given,
  );
  return (
    <section className={styles.hashBench} aria-label="Hash bench">
      <div className={styles.jobHead}>
        <b>Is the file whole?</b>
        <span className="soft small">
          {work
            ? progressWords(work)
            : digests
              ? file.name
              : `${file.name}, ${formatBytes(file.size)}: its SHA-256, to hold against what the maker publishes`}
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
      {work ? null : <MoreDigests missing={missing} onMore={() => void more()} />}
      {memory ? <MemoryNote memory={memory} /> : null}
      <Input
        aria-label="Paste the value it should have"
        placeholder="Paste the value the maker publishes, or drop the checksum file beside the package"
        value={pasted}
        onChange={(event) => setPasted(event.target.value)}
        style={{ marginTop: 8 }}
      />
      {digests ? (
        <ChecksumVerdict
          found={checkAgainst(given, file.name, digests)}
          fromPasted={fromPasted}
          notMade={missing.filter((name) => given.some(({ algorithm }) => algorithm === name))}
        />
      ) : null}
    </section>
  );
}

function MoreDigests({
  missing,
  onMore,
}: {
  readonly missing: readonly DigestedName[];
  readonly onMore: () => void;
}) {
  if (missing.length === 0) return null;
  return (
    <p>
      <Button size="small" onClick={onMore}>
        {missing.map(labelOf).join(' and ')} too
      </Button>{' '}
      <span className="soft small">where the maker publishes no SHA-256</span>
    </p>
  );
}

const labelOf = (name: DigestedName) => NAMES.find(([key]) => key === name)![1];

const DigestTable = ({ digests }: { readonly digests: Digested }) => (
  <table className="ledger">
    <tbody>
      {NAMES.flatMap(([key, label]) =>
        digests[key] === undefined
          ? []
          : [
              <tr key={key}>
                <td style={{ width: 90 }}>{label}</td>
                <td style={{ overflowWrap: 'anywhere' }}>
                  <HashText hash={digests[key]} whole />
                </td>
              </tr>,
            ],
      )}
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
  notMade,
}: {
  readonly found: ReturnType<typeof checkAgainst>;
  readonly fromPasted: boolean;
  /** What was given needs these, and they were not made yet. */
  readonly notMade: readonly DigestedName[];
}) {
  if (found.verdict === 'silent' && notMade.length > 0)
    return <p>That is {notMade.map(labelOf).join(' and ')}: have it made too, with the button above.</p>;
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

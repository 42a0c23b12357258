'use client';
import { Button, Checkbox, Progress } from 'antd';
import { useRef, useState } from 'react';
import type { BackupPreview } from '@/contracts/store-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes, formatDay } from '@/ui/format';
import { useJob } from '@/ui/frame/live';
import { sendBackup } from '@/ui/send';
import { useAct } from '@/ui/use-act';
import { restoreAction } from './actions';
import { JobLine } from './job-line';
import styles from './store.module.css';

/** The whole store in one open ZIP, and back again, here or on another computer. */
export function BackupPanel({ empty }: { empty: boolean }) {
  const [withPrivate, setWithPrivate] = useState(true);
  return (
    <div className={styles.columns}>
      <section aria-label="Back up">
        <h2>Back up</h2>
        <p>
          Everything in one open ZIP: handsets, facts, rounds, the log, every image and kit. Keep it off this
          computer.
        </p>
        <p style={{ margin: '6px 0' }}>
          <Checkbox checked={withPrivate} onChange={(event) => setWithPrivate(event.target.checked)}>
            Include serials, tokens and codes
          </Checkbox>
        </p>
        <Button href={`/api/store/backup?private=${withPrivate ? 'yes' : 'no'}`} disabled={empty}>
          Make a backup
        </Button>
        {withPrivate ? (
          <p className="soft small">A backup with them is for you alone: give it to nobody.</p>
        ) : null}
      </section>
      <Restore />
    </div>
  );
}

function Restore() {
  const input = useRef<HTMLInputElement>(null);
  const abort = useRef<AbortController | null>(null);
  const { act, busy, error: failed, dismiss } = useAct();
  const [sending, setSending] = useState<Sending | null>(null);
  const [preview, setPreview] = useState<BackupPreview | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  const [jobId, setJobId] = useState<string | null>(null);
  const job = useJob(jobId);

  async function send(file: File) {
    setError(null);
    setPreview(null);
    setJobId(null);
    abort.current = new AbortController();
    setSending({ done: 0, total: file.size });
    try {
      setPreview(
        await sendBackup<BackupPreview>(
          file,
          (done) => setSending({ done, total: file.size }),
          abort.current.signal,
        ),
      );
    } catch (thrown) {
      setError(toEternoError(thrown).toData());
    } finally {
      setSending(null);
    }
  }

  return (
    <section aria-label="Restore">
      <h2>Restore</h2>
      <p>A backup is read and shown before anything is restored. What is here already stays as it is.</p>
      <p style={{ margin: '6px 0' }}>
        <Button disabled={sending !== null} onClick={() => input.current?.click()}>
          Choose a backup
        </Button>
        <input
          ref={input}
          type="file"
          accept=".zip"
          className="visually-hidden"
          aria-label="Choose a backup"
          tabIndex={-1}
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) void send(file);
            event.target.value = '';
          }}
        />
      </p>
      {sending ? <SendingLine sending={sending} onStop={() => abort.current?.abort()} /> : null}
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      {failed ? <ErrorNote error={failed} onDismiss={dismiss} /> : null}
      {job?.error ? <ErrorNote error={job.error} onDismiss={() => setJobId(null)} /> : null}
      {job?.state === 'running' ? <JobLine job={job} /> : null}
      {job?.state === 'done' ? <p role="status">✓ Restored. Every file was hashed on its way in.</p> : null}
      {preview && job?.state !== 'done' ? (
        <Preview
          preview={preview}
          busy={busy || job?.state === 'running'}
          onRestore={() =>
            act(
              () => restoreAction(preview.token),
              (view) => setJobId(view.id),
            )
          }
        />
      ) : null}
    </section>
  );
}

/** Bytes sent, of how many. */
interface Sending {
  readonly done: number;
  readonly total: number;
}

const SendingLine = ({ sending, onStop }: { readonly sending: Sending; readonly onStop: () => void }) => (
  <div className={styles.job}>
    <Progress
      percent={Math.floor((100 * sending.done) / Math.max(1, sending.total))}
      showInfo={false}
      strokeColor="var(--root)"
      style={{ width: 180 }}
    />
    <span className="small">
      {sending.done < sending.total
        ? `${formatBytes(sending.done)} of ${formatBytes(sending.total)}`
        : 'reading it'}
    </span>
    <Button size="small" onClick={onStop}>
      Stop
    </Button>
  </div>
);

const TABLE_WORDS: Readonly<Record<string, string>> = {
  handsets: 'handsets',
  facts: 'facts',
  rounds: 'rounds',
  events: 'entries of the log',
  images: 'images',
  kits: 'kits',
  secrets: 'private values',
};

function Preview({
  preview,
  busy,
  onRestore,
}: {
  preview: BackupPreview;
  busy: boolean;
  onRestore: () => void;
}) {
  const shown = preview.tables.filter((table) => TABLE_WORDS[table.name] !== undefined && table.rows > 0);
  const fresh = preview.tables.reduce((sum, table) => sum + table.fresh, 0);
  const differing = preview.tables.reduce((sum, table) => sum + table.differing, 0);
  return (
    <div className={styles.preview}>
      <p>
        <b>A backup of {formatDay(preview.madeAt)}</b>, {preview.files} files, {formatBytes(preview.bytes)}
        {preview.withPrivate ? '' : ', without private values'}.
      </p>
      <ul>
        {shown.map((table) => (
          <li key={table.name}>
            {table.rows.toLocaleString('en')} {TABLE_WORDS[table.name]}
            {table.fresh < table.rows ? (
              <span className="soft">, {table.fresh.toLocaleString('en')} of them not here yet</span>
            ) : null}
            {table.differing > 0 ? (
              <span className="wait">, {table.differing} differ from yours, which stay</span>
            ) : null}
          </li>
        ))}
      </ul>
      {fresh === 0 && preview.filesHere === preview.files ? (
        <p>Everything in it is here already{differing > 0 ? '; what differs stays as it is here' : ''}.</p>
      ) : (
        <Button type="primary" loading={busy} onClick={onRestore}>
          Restore {preview.files - preview.filesHere} files and {fresh.toLocaleString('en')} records
        </Button>
      )}
    </div>
  );
}

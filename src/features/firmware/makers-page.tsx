'use client';
import { Button, Progress, Select } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { DownloadPageView, DownloadView } from '@/contracts/download-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { JudgedLine, JudgedList } from '@/core/finding/listed-builds';
import { ErrorNote } from '@/ui/error-note';
import { formatAge, formatBytes } from '@/ui/format';
import { useJob } from '@/ui/frame/live';
import { fetchDownload } from '@/ui/send';
import { StopButton } from '@/ui/stop-button';
import { useAct } from '@/ui/use-act';
import { fetchFileAction, forgetDownloadAction } from './actions';
import { ListedLines, sentenceOf } from './listed-lines';
import styles from './firmware.module.css';

interface Props {
  readonly page: DownloadPageView;
  readonly now: number;
  readonly onOpen: (file: File) => void;
}

/** The maker's download page against a handset: which line is its build, and the file that is fetched from it. */
export function MakersPage({ page, now, onOpen }: Props) {
  const [handset, setHandset] = useState(page.handsets[0]?.id ?? null);
  const chosen = page.handsets.find(({ id }) => id === handset) ?? page.handsets[0];
  if (!chosen) return null;
  return (
    <section aria-label="The maker’s download page" className={styles.makersPage}>
      <h2>{page.title}</h2>
      <p className="soft">
        {page.answers
          ? `Read just now, on this machine. Eterno opens no connection to anywhere else.`
          : `It does not answer now; this is what it said ${page.readAt === null ? 'before' : formatAge(page.readAt, now)}.`}
      </p>
      <div className={styles.findTools}>
        <span>Against</span>
        <Select
          aria-label="Handset for the page"
          value={chosen.id}
          onChange={setHandset}
          options={page.handsets.map(({ id, name }) => ({ value: id, label: name }))}
          popupMatchSelectWidth={false}
        />
      </div>
      {chosen.list === null ? (
        <p className="wait">The build of {chosen.name} was never read: read its facts first.</p>
      ) : (
        <PageLines list={chosen.list} page={page} onOpen={onOpen} />
      )}
    </section>
  );
}

/** Builds that nobody would take are told, and not fetched. */
const MAY_BE_FETCHED: readonly JudgedLine['verdict'][] = ['exact', 'newer', 'older', "can't tell"];

function PageLines({
  list,
  page,
  onOpen,
}: {
  readonly list: JudgedList;
  readonly page: DownloadPageView;
  readonly onOpen: Props['onOpen'];
}) {
  const { act, busy, error, dismiss } = useAct();
  const fetchLine = ({ line: { sha256 } }: JudgedLine) =>
    act(
      () => fetchFileAction({ sha256: sha256! }),
      () => undefined,
    );
  return (
    <>
      <p>
        <b>{sentenceOf(list)}</b>
      </p>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <ListedLines
        lines={list.lines}
        action={(one, i) => {
          const { sha256, file, sizeBytes } = one.line;
          if (sha256 === null || file === null || sizeBytes === null) return null;
          const there = page.downloads.find((download) => download.sha256 === sha256);
          if (there) return <Here download={there} onOpen={onOpen} />;
          if (!page.answers || !MAY_BE_FETCHED.includes(one.verdict)) return null;
          return (
            <Button
              size="small"
              type={i === list.exact ? 'primary' : 'default'}
              loading={busy}
              onClick={() => fetchLine(one)}
            >
              Fetch it
            </Button>
          );
        }}
      />
    </>
  );
}

/** A file that is here, or comes: how far it is, and what to do with it. */
function Here({ download, onOpen }: { readonly download: DownloadView; readonly onOpen: Props['onOpen'] }) {
  const { sha256, name, size, have, state, jobId } = download;
  const job = useJob(jobId);
  const router = useRouter();
  const [error, setError] = useState<ErrorData | null>(null);
  const { act, busy, error: refused } = useAct();
  const open = () => {
    setError(null);
    fetchDownload(sha256, name).then(onOpen, (thrown: unknown) =>
      setError(toEternoError(thrown, 'io').toData()),
    );
  };
  const done = job?.state === 'running' && job.phase === 'fetch' ? job.doneBytes : have;
  const failed = error ?? refused;
  return (
    <div className={styles.here}>
      {state === 'whole' ? (
        <>
          <Button size="small" type="primary" onClick={open}>
            Open it
          </Button>
          <span className="soft small">here, its hash is right</span>
        </>
      ) : (
        <>
          <Progress
            percent={Math.floor((100 * done) / Math.max(1, size))}
            showInfo={false}
            strokeColor="var(--root)"
            style={{ width: 110 }}
          />
          <span className="small">
            {formatBytes(done)} of {formatBytes(size)}
          </span>
          {state === 'coming' && jobId !== null ? <StopButton jobId={jobId} /> : null}
          {state === 'part' ? (
            <Button
              size="small"
              loading={busy}
              onClick={() =>
                act(
                  () => fetchFileAction({ sha256 }),
                  () => undefined,
                )
              }
            >
              Go on
            </Button>
          ) : null}
        </>
      )}
      {state === 'coming' ? null : (
        <Button
          size="small"
          type="text"
          onClick={() =>
            act(
              () => forgetDownloadAction({ sha256 }),
              () => router.refresh(),
            )
          }
        >
          Throw it away
        </Button>
      )}
      {failed ? <span className="bad small">{failed.message}</span> : null}
    </div>
  );
}

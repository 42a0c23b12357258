'use client';
import { InboxOutlined } from '@ant-design/icons';
import { Button, Progress, Select, Upload } from 'antd';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import { StopButton } from '@/ui/stop-button';
import { useJob, useStandIn } from '@/ui/frame/live';
import { HashText } from '@/ui/hash-text';
import { useAct } from '@/ui/use-act';
import { readBackAction } from './actions';
import styles from './handset.module.css';
import { useReadBack } from './use-read-back';
import type { ReadBackRow } from './use-read-back';

/**
 * Partitions read out of a rooted handset, as files, one tar, or over the link: the map turns from predicted
 * to read.
 */
export function ReadBackPanel({ handset }: { handset: HandsetDetail }) {
  const oneSlot = handset.known.slotCount === 1;
  const back = useReadBack(handset.id, oneSlot);
  const ready = back.rows.filter((row) => row.slot !== null && row.found.partition !== null);
  return (
    <section aria-label="Read it back">
      <h2>Read it back</h2>
      <p className="soft">
        With root on, boot, init_boot, vendor_boot, recovery and vbmeta of both slots can be read out. Their
        hashes turn this map from predicted to read.
      </p>
      {handset.link === 'stand-in' ? <OverLink handset={handset} /> : null}
      <Upload.Dragger
        multiple
        showUploadList={false}
        disabled={back.work !== null}
        beforeUpload={(file, all) => {
          if (file === all[0]) void back.bring(all);
          return Upload.LIST_IGNORE;
        }}
        className={styles.drop}
      >
        <InboxOutlined aria-hidden="true" /> Drop what you read out here: images, or one tar
      </Upload.Dragger>
      {back.work ? (
        <div className={styles.line}>
          <Progress
            percent={Math.floor((100 * back.work.doneBytes) / Math.max(1, back.work.totalBytes))}
            style={{ maxWidth: 300 }}
            strokeColor="var(--root)"
          />
          <span className="soft small">
            {back.work.phase === 'send' ? 'into the vault' : 'hashed'}: {formatBytes(back.work.doneBytes)} of{' '}
            {formatBytes(back.work.totalBytes)}
          </span>
          <Button size="small" onClick={back.stop}>
            Stop
          </Button>
        </div>
      ) : null}
      {back.error ? <ErrorNote error={back.error} onDismiss={back.dismiss} /> : null}
      {back.rows.length > 0 ? (
        <>
          <table className="ledger" style={{ marginTop: 10 }}>
            <thead>
              <tr>
                <th>File</th>
                <th>Read from</th>
                <th>What it is</th>
              </tr>
            </thead>
            <tbody>
              {back.rows.map((row, i) => (
                <RowOf
                  key={`${row.found.fileName}${i}`}
                  row={row}
                  oneSlot={oneSlot}
                  onSlot={(slot) => back.setSlot(i, slot)}
                />
              ))}
            </tbody>
          </table>
          <div className={styles.line}>
            <Button
              type="primary"
              disabled={ready.length === 0 || back.work !== null}
              onClick={() => void back.keep()}
            >
              Keep {ready.length} as read
            </Button>
            <Button type="text" onClick={back.putAway}>
              Put them away
            </Button>
            {ready.length < back.rows.length ? (
              <span className="wait small">Say for each from which slot it was read.</span>
            ) : null}
          </div>
        </>
      ) : null}
    </section>
  );
}

function RowOf({
  row: { found, slot },
  oneSlot,
  onSlot,
}: {
  row: ReadBackRow;
  oneSlot: boolean;
  onSlot: (slot: string) => void;
}) {
  return (
    <tr>
      <td style={{ overflowWrap: 'anywhere' }}>
        {found.fileName}
        <div className="soft small">
          {formatBytes(found.sizeBytes)} {found.sha256 ? <HashText hash={found.sha256} /> : null}
        </div>
      </td>
      <td>
        <span className="mono">{found.partition ?? 'not known'}</span>{' '}
        {oneSlot ? null : (
          <Select
            aria-label={`Slot of ${found.fileName}`}
            size="small"
            style={{ width: 90 }}
            value={slot}
            placeholder="slot"
            onChange={onSlot}
            options={['a', 'b'].map((one) => ({ value: one, label: `slot ${one}` }))}
          />
        )}
      </td>
      <td>
        {found.sentence}
        {found.problem ? <div className="bad small">{found.problem}</div> : null}
      </td>
    </tr>
  );
}

/** All of it in one go over the link; the prompt for root shows on the handset. */
function OverLink({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const standIn = useStandIn(handset.profile);
  const [jobId, setJobId] = useState<string | null>(null);
  const job = useJob(jobId);
  const running = job?.state === 'running';
  const system = standIn?.state.mode === 'system';
  return (
    <>
      <div className={styles.line}>
        <Button
          loading={busy || running}
          disabled={!system}
          onClick={() =>
            act(
              () => readBackAction(handset.id),
              (view) => setJobId(view.id),
            )
          }
        >
          Read all of it back over the link
        </Button>
        {running ? (
          <>
            <span className="soft small">
              {job.phase}: {job.doneBytes} of {job.totalBytes}
              {job.phase.startsWith('ask') ? '. Allow it on the handset with Volume up.' : ''}
            </span>
            <StopButton jobId={job.id} />
          </>
        ) : (
          <span className="soft small">
            {system ? 'It asks for root first; allow it on the handset.' : 'Its system has to run for this.'}
          </span>
        )}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {job?.error ? <ErrorNote error={job.error} onDismiss={() => setJobId(null)} /> : null}
    </>
  );
}

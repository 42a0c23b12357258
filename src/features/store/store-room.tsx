'use client';
import { Button, Popconfirm } from 'antd';
import { Link } from '@/ui/link';
import { useMemo, useState } from 'react';
import type { StoredImageView, StoreView } from '@/contracts/store-view';
import type { Shell, Vocabulary as Words } from '@/core/steps/commands';
import { ErrorNote } from '@/ui/error-note';
import { NextStrip } from '@/ui/next-strip';
import { formatAge, formatBytes } from '@/ui/format';
import { useJob } from '@/ui/frame/live';
import { useRoomWhy } from '@/ui/frame/why';
import { HashText } from '@/ui/hash-text';
import { useAct } from '@/ui/use-act';
import { roleWords } from '@/ui/role-words';
import { checkVaultAction, throwAwayAction } from './actions';
import { BackupPanel } from './backup-panel';
import { CableSwitch } from './cable-switch';
import { JobLine } from './job-line';
import { Shelves } from './shelves';
import styles from './store.module.css';
import { Vocabulary } from './vocabulary';

interface Props {
  readonly store: StoreView;
  readonly now: number;
}
interface RoomProps extends Props {
  readonly commands: { readonly shell: Shell; readonly tool: string; readonly vocabulary: Words };
  /** When the browser's cable was switched on; null where it is off. */
  readonly cable: number | null;
}

/** What is kept on this computer: is it whole, can it be carried away and brought back, what may go. */
export function StoreRoom({ store, commands, cable, now }: RoomProps) {
  useRoomWhy(useMemo(() => <StoreWhy store={store} />, [store]));
  return (
    <div className={styles.room}>
      <h1>
        {store.vault.files === 0
          ? 'Nothing is kept yet.'
          : `${store.vault.files} files are kept, ${formatBytes(store.vault.bytes)}.`}
      </h1>
      <Integrity store={store} now={now} />
      <BackupPanel empty={store.images.length === 0 && store.handsets.length === 0} />
      <h2 style={{ marginTop: 22 }}>Images in the vault</h2>
      <ImageTable images={store.images} />
      <Shelves store={store} />
      <CableSwitch on={cable !== null} />
      <Vocabulary shell={commands.shell} vocabulary={commands.vocabulary} tool={commands.tool} />
    </div>
  );
}

function Integrity({ store: { lastCheck, vault }, now }: Props) {
  const { act, busy, error, dismiss } = useAct();
  const [jobId, setJobId] = useState<string | null>(null);
  const job = useJob(jobId);
  const bad = lastCheck ? lastCheck.damaged.length + lastCheck.missing.length : 0;
  const sentence = !lastCheck
    ? 'The files were never checked against their hashes.'
    : bad > 0
      ? `${bad} of ${lastCheck.checked} files are damaged or gone. Take them out of their packages again, or restore a backup.`
      : `Every one of ${lastCheck.checked} files had its hash ${formatAge(lastCheck.at, now)}${lastCheck.strays > 0 ? `; ${lastCheck.strays} more files are there that no record names` : ''}.`;
  return (
    <>
      <NextStrip
        action={
          job?.state === 'running' ? (
            <JobLine job={job} />
          ) : (
            <Button
              type={bad > 0 || !lastCheck ? 'primary' : 'default'}
              loading={busy}
              disabled={vault.files === 0}
              onClick={() => act(checkVaultAction, (view) => setJobId(view.id))}
            >
              Check every file
            </Button>
          )
        }
      >
        <span className={bad > 0 ? 'bad' : ''}>{sentence}</span>
      </NextStrip>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

function ImageTable({ images }: { images: readonly StoredImageView[] }) {
  const { act, busy, error, dismiss } = useAct();
  if (images.length === 0)
    return (
      <p className="soft">
        None yet. <Link href="/firmware">Open a package</Link> and take out the images of your builds.
      </p>
    );
  return (
    <>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <table className="ledger">
        <thead>
          <tr>
            <th>Build</th>
            <th>Image</th>
            <th>What it is</th>
            <th>SHA-256</th>
            <th className="num">Size</th>
            <th>Why it stays</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {images.map((image) => (
            <tr key={image.sha256}>
              <td className="mono">{image.build ?? 'not named'}</td>
              <td>
                <Link href={`/images/${image.sha256}`}>{image.partition}</Link>
              </td>
              <td>
                {roleWords(image)}
                {image.state === 'as kept' ? null : <b className="bad"> {image.state}</b>}
              </td>
              <td>
                <HashText hash={image.sha256} />
              </td>
              <td className="num">{formatBytes(image.sizeBytes)}</td>
              <td className="small">{image.guardian ?? <span className="soft">nothing needs it</span>}</td>
              <td>
                {image.guardian ? null : (
                  <Popconfirm
                    title={`Throw this ${image.partition} away for good?`}
                    description="Its file leaves the vault; what the log says of it stays."
                    okText="Throw it away"
                    cancelText="Keep it"
                    okButtonProps={{ danger: true }}
                    onConfirm={() => act(() => throwAwayAction(image.sha256))}
                  >
                    <Button size="small" disabled={busy}>
                      Throw away
                    </Button>
                  </Popconfirm>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function StoreWhy({ store }: { store: StoreView }) {
  return (
    <>
      <h2>What is protected</h2>
      <p style={{ margin: '4px 0 12px' }}>
        The stock images of every build that is on a handset, every image that lies on a slot, and the stock
        image that such an image was made from. The last way back is never thrown away.
      </p>
      <h2>Damaged or gone</h2>
      {store.lastCheck && store.lastCheck.damaged.length + store.lastCheck.missing.length > 0 ? (
        <ul>
          {[...store.lastCheck.damaged, ...store.lastCheck.missing].map((hash) => (
            <li key={hash}>
              <HashText hash={hash} />
            </li>
          ))}
        </ul>
      ) : (
        <p>Nothing, by the last check.</p>
      )}
    </>
  );
}

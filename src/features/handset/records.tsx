'use client';
import { BACKUP_KINDS } from '@/core/backups/backup-set';
import type { BackupKind, BackupPart } from '@/core/words/backups';
import { BACKUP_KIND_WORDS, lackWords } from '@/core/words/backups';
import { BackupParts } from '@/ui/backup-parts';
import { Button, Input, Select } from 'antd';
import { Link } from '@/ui/link';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import { factWord } from '@/core/facts/catalogue';
import { ErrorNote } from '@/ui/error-note';
import { formatAge, formatDay } from '@/ui/format';
import { OnShelf } from '@/ui/on-shelf';
import { useAct } from '@/ui/use-act';
import { keepSecretAction, noteBackupAction } from './actions';
import styles from './handset.module.css';
import { HeldRoot } from './held-root';

interface Props {
  readonly handset: HandsetDetail;
  readonly now: number;
}

/** Rounds, kit and recovery, backups, private values, and the tamper record as it is. */
export function Records({ handset, now }: Props) {
  return (
    <div className={styles.columns}>
      <div style={{ gridColumn: '1 / -1' }}>
        <h2>Root over the years</h2>
        <HeldRoot handset={handset} now={now} />
      </div>
      <div>
        <h2>Rounds</h2>
        <Rounds handset={handset} />
        <h2 style={{ marginTop: 18 }}>Root app</h2>
        <RootApp rootApp={handset.rootApp} />
        <h2 style={{ marginTop: 18 }}>Kits that could root it</h2>
        {handset.kits.map((kit) => (
          <OnShelf key={kit.sha256} item={kit} />
        ))}
        {handset.kits.length === 0 ? <p className="soft">No kit is in the vault.</p> : null}
        <h2 style={{ marginTop: 18 }}>Recoveries for its code name</h2>
        {handset.recoveries
          .filter((one) => handset.known.device !== null && one.devices.includes(handset.known.device))
          .map((one) => (
            <OnShelf key={one.id} item={one} note={one.note} />
          ))}
        {handset.recoveries.some(
          (one) => handset.known.device !== null && one.devices.includes(handset.known.device),
        ) ? null : (
          <p className="soft">
            None on the shelf is made for it. <Link href="/store">Put one there</Link>.
          </p>
        )}
      </div>
      <div>
        <h2>Backups</h2>
        <Backups handset={handset} now={now} />
        <h2 style={{ marginTop: 18 }}>Private values</h2>
        <Secrets handset={handset} />
        <h2 style={{ marginTop: 18 }}>Tamper record</h2>
        <p className="soft small">
          As the handset says it. Eterno writes it down, and never resets or hides it.
        </p>
        <table className="ledger">
          <tbody>
            {handset.facts
              .filter((fact) => fact.group === 'Record')
              .map((fact) => (
                <tr key={fact.key}>
                  <td className="soft" style={{ width: 150 }}>
                    {fact.label}
                  </td>
                  <td>{factWord(fact.value)}</td>
                  <td className="soft small">
                    {fact.said}, {formatDay(fact.at)}
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
        {handset.facts.some((fact) => fact.group === 'Record') ? null : (
          <p className="soft">Nothing is known of it.</p>
        )}
      </div>
    </div>
  );
}

const FITS = { true: ['good', 'It fits the kit that runs.'], false: ['bad', 'It does not fit.'] } as const;

/** The app and the kit are a pair: version, channel, whether it is seen, whether it changes by itself. */
function RootApp({ rootApp }: Pick<HandsetDetail, 'rootApp'>) {
  if (rootApp === null)
    return (
      <p className="soft">
        Nothing was read of it. Over the link it is read with everything else; what you see of it can be typed
        under its facts.
      </p>
    );
  const [look, words] =
    rootApp.fits === null ? (['wait', 'Not enough is known to tell.'] as const) : FITS[`${rootApp.fits}`];
  return (
    <>
      <p>
        <b className={look}>{words}</b>
      </p>
      {rootApp.says.map((line) => (
        <p key={line} className="small">
          {line}
        </p>
      ))}
    </>
  );
}

function Rounds({ handset }: { handset: HandsetDetail }) {
  if (handset.rounds.length === 0) return <p className="soft">No round yet.</p>;
  return (
    <table className="ledger">
      <tbody>
        {handset.rounds.map((round) => (
          <tr key={round.id}>
            <td>
              <Link href={`/rounds/${round.id}`}>{round.title}</Link>
            </td>
            <td className="soft">{formatDay(round.openedAt)}</td>
            <td>{round.state === 'given-up' ? 'given up' : round.state}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Backups({ handset, now }: Props) {
  const { act, busy, error, dismiss } = useAct();
  const [what, setWhat] = useState<BackupKind>('files');
  const [parts, setParts] = useState<readonly BackupPart[]>([]);
  const [place, setPlace] = useState<'off the handset' | 'on the handset'>('off the handset');
  const [note, setNote] = useState('');
  return (
    <>
      {handset.records.backups.map((backup) => (
        <p key={`${backup.at}${backup.what}`}>
          <b>{BACKUP_KIND_WORDS[backup.what]}</b>, {backup.place}, {formatAge(backup.at, now)}
          {backup.note ? <span className="soft"> ({backup.note})</span> : null}
          {backup.lacks === null ? null : backup.lacks.length === 0 ? (
            <span className="good small"> a whole set</span>
          ) : (
            <span className="wait small"> not in it: {lackWords(backup.lacks)}</span>
          )}
          {backup.place === 'on the handset' ? (
            <span className="wait small"> erased by the same wipe</span>
          ) : null}
        </p>
      ))}
      {handset.records.backups.length === 0 ? (
        <p className="soft">None noted. A wipe would erase everything.</p>
      ) : null}
      <div className={styles.line}>
        <Select
          aria-label="What was backed up"
          style={{ width: 190 }}
          value={what}
          onChange={(kind) => {
            setWhat(kind);
            setParts([]);
          }}
          options={BACKUP_KINDS.map((value) => ({ value, label: BACKUP_KIND_WORDS[value] }))}
        />
        <Select
          aria-label="Where it lies"
          style={{ width: 150 }}
          value={place}
          onChange={setPlace}
          options={(['off the handset', 'on the handset'] as const).map((one) => ({
            value: one,
            label: one,
          }))}
        />
        <Input
          aria-label="Note"
          placeholder="what and where"
          style={{ width: 170 }}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
      </div>
      <BackupParts what={what} value={parts} onChange={setParts} />
      <Button
        loading={busy}
        onClick={() =>
          act(
            () => noteBackupAction({ handsetId: handset.id, what, place, note, parts: [...parts] }),
            () => {
              setNote('');
              setParts([]);
            },
          )
        }
      >
        Note a backup of now
      </Button>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

const SECRET_WORDS: Readonly<Record<string, string>> = {
  serial: 'Serial',
  token: 'Unlock token',
  code: 'Unlock code',
};

function Secrets({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const [name, setName] = useState<'serial' | 'token' | 'code'>('code');
  const [value, setValue] = useState('');
  return (
    <>
      <p className="soft small">
        Kept apart from everything else, and never shown whole. To ask others for help, give them{' '}
        <a href={`/api/handsets/${handset.id}/passport`}>its passport as text</a>: private values are left out
        of it.
      </p>
      {handset.records.secrets.map((secret) => (
        <p key={secret.name}>
          {SECRET_WORDS[secret.name]}:{' '}
          <span className="mono">{secret.ending ? `••••${secret.ending}` : '••••••••'}</span>
        </p>
      ))}
      <div className={styles.line}>
        <Select
          aria-label="Which private value"
          style={{ width: 140 }}
          value={name}
          onChange={setName}
          options={(['serial', 'token', 'code'] as const).map((one) => ({
            value: one,
            label: SECRET_WORDS[one],
          }))}
        />
        <Input.Password
          aria-label="Its value"
          style={{ width: 210 }}
          value={value}
          onChange={(event) => setValue(event.target.value)}
          autoComplete="off"
        />
        <Button
          loading={busy}
          disabled={value.trim() === ''}
          onClick={() =>
            act(
              () => keepSecretAction({ handsetId: handset.id, name, value }),
              () => setValue(''),
            )
          }
        >
          Keep it apart
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

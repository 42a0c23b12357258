import { Button, Input } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { LogNote } from '@/contracts/log-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { formatTime } from '@/ui/format';
import { sendNote } from '@/ui/send';
import styles from './log.module.css';

interface Props {
  readonly notes: readonly LogNote[];
  readonly roundId: string;
  /** Null for the round as a whole. */
  readonly stepId: string | null;
}

/** What the person noted, with pictures, and a line for more. */
export function Notes({ notes, roundId, stepId }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <div className={styles.notes}>
      {notes.map((note) => (
        <p key={note.at + note.text} title={formatTime(note.at)}>
          ✎ {note.text}
          {note.picture ? (
            <a href={`/api/pictures/${note.picture}`} target="_blank" rel="noreferrer">
              {/* a picture of the person's own, from this machine */}
              {/* eslint-disable-next-line @next/next/no-img-element */}
              <img
                src={`/api/pictures/${note.picture}`}
                alt={note.text === '' ? 'A picture of this step' : note.text}
              />
            </a>
          ) : null}
        </p>
      ))}
      {open ? (
        <NoteForm roundId={roundId} stepId={stepId} close={() => setOpen(false)} />
      ) : (
        <button type="button" className={styles.add} onClick={() => setOpen(true)}>
          Add a note{stepId === null ? ' to this round' : ''}
        </button>
      )}
    </div>
  );
}

function NoteForm({ roundId, stepId, close }: Omit<Props, 'notes'> & { readonly close: () => void }) {
  const router = useRouter();
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const [text, setText] = useState('');
  const [picture, setPicture] = useState<File | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const keep = async () => {
    setBusy(true);
    setError(null);
    try {
      await sendNote({ roundId, ...(stepId === null ? {} : { stepId }), text }, picture);
      router.refresh();
      close();
    } catch (thrown) {
      setError(toEternoError(thrown, 'io').toData());
      setBusy(false);
    }
  };
  return (
    <div className={styles.form}>
      <Input
        size="small"
        aria-label="Note"
        autoFocus
        value={text}
        onChange={(event) => setText(event.target.value)}
        style={{ width: 300 }}
      />
      <input
        ref={input}
        type="file"
        accept="image/png,image/jpeg,image/webp"
        hidden
        aria-label="Picture"
        onChange={(event) => setPicture(event.target.files?.[0] ?? null)}
      />
      <Button size="small" onClick={() => input.current?.click()}>
        {picture ? picture.name.slice(0, 24) : 'A picture'}
      </Button>
      <Button
        size="small"
        type="primary"
        loading={busy}
        disabled={text.trim() === '' && picture === null}
        onClick={() => void keep()}
      >
        Keep it
      </Button>
      <Button size="small" onClick={close}>
        Leave it
      </Button>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </div>
  );
}

'use client';
import { Button, Select, Input } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ImageSummary } from '@/contracts/image-view';
import type { ForcedAnswer, StandInView } from '@/contracts/stand-in-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { tellStandIn } from '@/ui/send';
import { useStandIn } from '@/ui/frame/live';
import styles from './round.module.css';
import { StandInDrawing } from './stand-in-drawing';
import { StandInFaults } from './stand-in-faults';

type Key = 'power' | 'up' | 'down';
const KEY_LABELS: readonly (readonly [Key, string, string])[] = [
  ['up', 'Volume up', '['],
  ['down', 'Volume down', ']'],
  ['power', 'Power', 'p'],
];

/** @returns what went wrong, or null */
const told = (path: string, body: object): Promise<ErrorData | null> =>
  tellStandIn(path, body).then(
    () => null,
    (thrown: unknown) => toEternoError(thrown).toData(),
  );

interface Props {
  readonly profile: string;
  readonly images: readonly ImageSummary[];
}

/**
 * The stand-in beside the round: its screen, its keys (held as long as they are pressed), what a finger can
 * do, its mail, its faults.
 */
export function StandInPanel({ profile, images }: Props) {
  const standIn = useStandIn(profile);
  const [held, setHeld] = useState<ReadonlySet<Key>>(new Set());
  const [error, setError] = useState<ErrorData | null>(null);
  // one after the other: a key that was let go must not arrive before its press
  const before = useRef<Promise<void>>(Promise.resolve());
  const tell = useCallback(
    (path: string, body: object) => {
      before.current = before.current.then(() => told(path, { profile, ...body })).then(setError);
    },
    [profile],
  );
  const press = useCallback(
    (key: Key, down: boolean) => {
      setHeld((known) => {
        const next = new Set(known);
        if (down) next.add(key);
        else next.delete(key);
        return next;
      });
      tell('key', { key, down });
    },
    [tell],
  );
  useHeldKeys(press);
  if (standIn === undefined) return <p className="soft">Looking for the stand-in …</p>;
  if (standIn === null) {
    return (
      <div>
        <b>The stand-in is not running.</b>
        <p className="soft small" style={{ margin: '4px 0 10px' }}>
          Its state is on disk; nothing is lost.
        </p>
        <Button onClick={() => tell('restart', {})}>Start it again</Button>
        {error ? <ErrorNote error={error} /> : null}
      </div>
    );
  }
  const { state, screen, profile: about } = standIn;
  const touches = screen.kind === 'system' ? screen.touches : [];
  return (
    <div>
      <div style={{ display: 'flex', justifyContent: 'space-between' }}>
        <b>Stand-in, {about.model}</b>
        <span className="soft">{state.batteryPercent} %</span>
      </div>
      <StandInDrawing screen={screen} cable={state.cable} />
      {touches.length > 0 ? (
        <div className={styles.touches} role="group" aria-label="On its screen">
          {touches.map(({ id, label }) => (
            <button key={id} type="button" onClick={() => tell('touch', { id })}>
              {label}
            </button>
          ))}
        </div>
      ) : null}
      <div className={styles.keysRow}>
        {KEY_LABELS.map(([key, label, letter]) => (
          <button
            key={key}
            type="button"
            className={styles.key}
            data-held={held.has(key)}
            aria-pressed={held.has(key)}
            title={`Hold with the mouse, or hold ${letter}`}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              press(key, !(event.shiftKey && held.has(key)));
            }}
            onPointerUp={(event) => {
              if (!event.shiftKey) press(key, false);
            }}
            onPointerCancel={() => press(key, false)}
          >
            {label}
          </button>
        ))}
      </div>
      <p className="soft small">
        Hold with the mouse, or with <kbd>[</kbd> <kbd>]</kbd> <kbd>P</kbd>. Shift-press keeps a key down.
      </p>
      {about.mails ? <Desk tell={tell} /> : null}
      <Mailbox mail={standIn.mail} />
      <StandInFaults state={state} tell={tell} />
      <ForceWrite
        images={images}
        target={about.slotCount === 2 ? `${about.rootPartition}_${state.active}` : `${about.rootPartition}_a`}
        profile={profile}
        onError={setError}
      />
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </div>
  );
}

/** The page of its maker that mails codes; a stand-in on this machine. */
function Desk({ tell }: { tell: (what: 'desk', body: { text: string }) => void }) {
  const [text, setText] = useState('');
  return (
    <div className={styles.panel}>
      <b>Its maker’s unlocking desk</b> <span className="soft small">(a stand-in)</span>
      <Input.TextArea
        aria-label="Token for the desk"
        size="small"
        className="mono"
        autoSize={{ minRows: 1, maxRows: 4 }}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <Button
        size="small"
        style={{ marginTop: 6 }}
        disabled={text.trim() === ''}
        onClick={() => {
          tell('desk', { text });
          setText('');
        }}
      >
        Ask it for a code
      </Button>
    </div>
  );
}

/** What came by mail for its owner; a stand-in inbox on this machine. */
function Mailbox({ mail }: { mail: StandInView['mail'] }) {
  if (mail.length === 0) return null;
  return (
    <div className={styles.panel}>
      <b>Mail</b>
      {mail.map((one) => (
        <p key={one.text} className="small">
          {one.subject}, from {one.from} <span className="soft">({one.folder})</span>
          <br />
          <span className="mono">{one.text}</span>
        </p>
      ))}
    </div>
  );
}

/**
 * Keyboard keys act as the handset's keys for as long as they are down; all are let go when the window loses
 * the focus.
 */
function useHeldKeys(press: (key: Key, down: boolean) => void): void {
  useEffect(() => {
    const down = new Set<Key>();
    const keyOf = (event: KeyboardEvent): Key | undefined =>
      KEY_LABELS.find(([, , letter]) => letter === event.key.toLowerCase())?.[0];
    const onDown = (event: KeyboardEvent) => {
      const key = keyOf(event);
      if (
        !key ||
        event.repeat ||
        event.ctrlKey ||
        event.metaKey ||
        (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName))
      )
        return;
      down.add(key);
      press(key, true);
    };
    const onUp = (event: KeyboardEvent) => {
      const key = keyOf(event);
      if (key && down.delete(key)) press(key, false);
    };
    const onBlur = () => {
      for (const key of down) press(key, false);
      down.clear();
    };
    window.addEventListener('keydown', onDown);
    window.addEventListener('keyup', onUp);
    window.addEventListener('blur', onBlur);
    return () => {
      window.removeEventListener('keydown', onDown);
      window.removeEventListener('keyup', onUp);
      window.removeEventListener('blur', onBlur);
      onBlur();
    };
  }, [press]);
}

interface ForceProps {
  readonly images: readonly ImageSummary[];
  readonly target: string;
  readonly profile: string;
  readonly onError: (error: ErrorData | null) => void;
}

/** Past every check, on the stand-in only: to see what a wrong image does. */
function ForceWrite({ images, target, profile, onError }: ForceProps) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [said, setSaid] = useState('');
  const [wrong, setWrong] = useState<readonly string[]>([]);
  if (images.length === 0) return null;
  const write = async () => {
    try {
      const answer = await tellStandIn('force', { profile, sha256: chosen, partition: target });
      setWrong((answer as ForcedAnswer).wrong);
      onError(null);
      setSaid(`It lies on ${target} now. Restart the stand-in to see what becomes of it.`);
    } catch (thrown) {
      onError(toEternoError(thrown).toData());
      setSaid('');
    }
  };
  return (
    <details className={styles.panel}>
      <summary>Force an image onto it, past every check</summary>
      <p className="soft small" style={{ margin: '6px 0' }}>
        Only the stand-in can take this. On a real handset a wrong image here is how people lose a day.
      </p>
      <Select
        aria-label="Image to force"
        size="small"
        style={{ width: '100%' }}
        placeholder="Choose an image of the vault"
        value={chosen}
        onChange={setChosen}
        options={images.map((image) => ({
          value: image.sha256,
          label: `${image.role} ${image.partition} ${image.build ?? ''}`,
        }))}
      />
      <Button
        danger
        size="small"
        style={{ marginTop: 6 }}
        disabled={chosen === null}
        onClick={() => void write()}
      >
        Force it onto {target}
      </Button>
      {said ? <p className="small">{said}</p> : null}
      {said && wrong.length > 0 ? (
        <div className="small" role="note" aria-label="Why no round would write it">
          <b>No round would have written it there:</b>
          {wrong.map((line) => (
            <div key={line}>{line}</div>
          ))}
        </div>
      ) : null}
    </details>
  );
}

'use client';
import { Button, Select } from 'antd';
import { useCallback, useEffect, useState } from 'react';
import type { ImageSummary } from '@/contracts/image-view';
import type { ErrorData } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { useLive } from '@/ui/frame/live';
import styles from './round.module.css';
import { StandInDrawing } from './stand-in-drawing';

type Key = 'power' | 'up' | 'down';
const KEY_LABELS: readonly (readonly [Key, string, string])[] = [
  ['up', 'Volume up', '['],
  ['down', 'Volume down', ']'],
  ['power', 'Power', 'p'],
];

async function post(path: string, body: object): Promise<ErrorData | null> {
  const response = await fetch(path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
  return response.ok ? null : ((await response.json()) as { error: ErrorData }).error;
}

/** The stand-in beside the round: its screen, its keys (held as long as they are pressed), its cable, and a panel that forces a write. */
export function StandInPanel({ images }: { images: readonly ImageSummary[] }) {
  const { standIn } = useLive();
  const [held, setHeld] = useState<ReadonlySet<Key>>(new Set());
  const [error, setError] = useState<ErrorData | null>(null);
  const press = useCallback((key: Key, down: boolean) => {
    setHeld((known) => {
      const next = new Set(known);
      if (down) next.add(key);
      else next.delete(key);
      return next;
    });
    void post('/api/stand-in/key', { key, down }).then(setError);
  }, []);
  useHeldKeys(press);
  if (standIn === undefined) return <p className="soft">Looking for the stand-in …</p>;
  if (standIn === null) {
    return (
      <div>
        <b>The stand-in is not running.</b>
        <p className="soft small" style={{ margin: '4px 0 10px' }}>
          Its state is on disk; nothing is lost.
        </p>
        <Button onClick={() => void post('/api/stand-in/restart', {}).then(setError)}>Start it again</Button>
        {error ? <ErrorNote error={error} /> : null}
      </div>
    );
  }
  const { state, screen, profile } = standIn;
  return (
    <div>
      <div style={{ display: 'flex', justifyContent: 'space-between' }}>
        <b>Stand-in, {profile.model}</b>
        <span className="soft">{state.batteryPercent} %</span>
      </div>
      <StandInDrawing screen={screen} cable={state.cable} />
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
      <div className={styles.panel}>
        <Button size="small" onClick={() => void post('/api/stand-in/cable', { connected: !state.cable }).then(setError)}>
          {state.cable ? 'Pull the cable' : 'Plug the cable in'}
        </Button>
      </div>
      <ForceWrite images={images} partition={profile.rootPartition} slot={state.active} onError={setError} />
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </div>
  );
}

/** Keyboard keys act as the handset's keys for as long as they are down; all are let go when the window loses the focus. */
function useHeldKeys(press: (key: Key, down: boolean) => void): void {
  useEffect(() => {
    const down = new Set<Key>();
    const keyOf = (event: KeyboardEvent): Key | undefined => KEY_LABELS.find(([, , letter]) => letter === event.key.toLowerCase())?.[0];
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
  readonly partition: string;
  readonly slot: string;
  readonly onError: (error: ErrorData | null) => void;
}

/** Past every check, on the stand-in only: to see what a wrong image does. */
function ForceWrite({ images, partition, slot, onError }: ForceProps) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [said, setSaid] = useState('');
  if (images.length === 0) return null;
  const target = `${partition}_${slot}`;
  const force = async () => {
    const error = await post('/api/stand-in/force', { sha256: chosen, partition: target });
    onError(error);
    setSaid(error ? '' : `It lies on ${target} now. Restart the stand-in to see what becomes of it.`);
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
        options={images.map((image) => ({ value: image.sha256, label: `${image.role} ${image.partition} ${image.build ?? ''}` }))}
      />
      <Button danger size="small" style={{ marginTop: 6 }} disabled={chosen === null} onClick={() => void force()}>
        Force it onto {target}
      </Button>
      {said ? <p className="small">{said}</p> : null}
    </details>
  );
}

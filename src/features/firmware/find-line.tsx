'use client';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { JudgedList } from '@/core/finding/listed-builds';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { findLineAction } from './actions';
import { ListedLines, sentenceOf } from './listed-lines';
import styles from './firmware.module.css';

interface Props {
  readonly handsets: readonly { readonly id: string; readonly name: string }[];
}

/** A maker's list of builds, pasted or from a file: which line is the installed build, letter by letter. */
export function FindLine({ handsets }: Props) {
  const [handset, setHandset] = useState(handsets[0]?.id ?? null);
  const [text, setText] = useState('');
  const [found, setFound] = useState<JudgedList | null>(null);
  const { act, busy, error, dismiss } = useAct();
  if (handset === null) return null;
  const run = () => {
    setFound(null);
    act(() => findLineAction({ handsetId: handset, text }), setFound);
  };
  return (
    <details className={styles.findLine}>
      <summary>Which line of a maker’s list is my build?</summary>
      <p className="soft">
        Copy the list from the maker’s page, or open it as CSV or JSON and paste it here. Every line is held
        against the installed build letter by letter.
      </p>
      <Input.TextArea
        aria-label="A maker’s list of builds"
        rows={5}
        value={text}
        maxLength={1_000_000}
        onChange={(event) => {
          setText(event.target.value);
          setFound(null);
        }}
      />
      <div className={styles.findTools}>
        <Select
          aria-label="Handset"
          value={handset}
          onChange={(wanted: string) => {
            setHandset(wanted);
            setFound(null);
          }}
          options={handsets.map(({ id, name }) => ({ value: id, label: name }))}
          popupMatchSelectWidth={false}
        />
        <Button loading={busy} disabled={text.trim() === ''} onClick={run}>
          Find its line
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {found ? <FoundLines found={found} /> : null}
    </details>
  );
}

function FoundLines({ found }: { readonly found: JudgedList }) {
  return (
    <div role="status">
      <p>
        <b>{sentenceOf(found)}</b>
      </p>
      <ListedLines lines={found.lines} />
    </div>
  );
}

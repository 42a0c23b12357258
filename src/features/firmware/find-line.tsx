'use client';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { JudgedLine, JudgedList, ListedVerdict } from '@/core/finding/listed-builds';
import { listedWords } from '@/core/words/listed';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import { useAct } from '@/ui/use-act';
import { findLineAction } from './actions';
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

const VERDICTS: Readonly<Record<ListedVerdict, { readonly words: string; readonly mark: string }>> = {
  exact: { words: 'this one', mark: 'ok' },
  'look-alike': { words: 'looks alike', mark: 'bad' },
  newer: { words: 'newer', mark: 'soft' },
  older: { words: 'older', mark: 'soft' },
  'shut out': { words: 'shut out', mark: 'bad' },
  'other variant': { words: 'other variant', mark: 'bad' },
  "can't tell": { words: 'can’t tell', mark: 'wait' },
  'no build': { words: '', mark: 'soft' },
};

function sentenceOf({ lines, exact }: JudgedList): string {
  if (exact !== null) return 'One line is exactly the installed build: take that one.';
  const count = (verdict: ListedVerdict) => lines.filter((one) => one.verdict === verdict).length;
  if (count('exact') > 1)
    return `${count('exact')} lines name the installed build: look at what else they say, and take none that you don’t understand.`;
  if (count("can't tell") > 0)
    return 'A line names the installed build, and whether it is for this handset depends on its carrier.';
  if (count('look-alike') > 0)
    return 'No line is the installed build. Some look like it: take none of those.';
  return 'No line is the installed build: the list is of another handset, or this build is not offered any more.';
}

function FoundLines({ found }: { readonly found: JudgedList }) {
  const told = found.lines.filter(({ verdict }) => verdict !== 'no build');
  const rest = found.lines.length - told.length;
  return (
    <div role="status">
      <p>
        <b>{sentenceOf(found)}</b>
      </p>
      {told.length > 0 ? (
        <table className="ledger">
          <thead>
            <tr>
              <th>Verdict</th>
              <th>The line</th>
              <th>Why</th>
              <th className="num">Size</th>
              <th>SHA-256</th>
            </tr>
          </thead>
          <tbody>
            {told.map((one, i) => (
              <FoundLine key={`${i} ${one.line.label}`} one={one} />
            ))}
          </tbody>
        </table>
      ) : null}
      {rest > 0 ? <p className="soft">{rest} lines name no build of its kind.</p> : null}
    </div>
  );
}

const FoundLine = ({ one: { line, verdict, says } }: { readonly one: JudgedLine }) => (
  <tr>
    <td className={styles.stays}>
      <b className={VERDICTS[verdict].mark}>{VERDICTS[verdict].words}</b>
    </td>
    <td className={styles.breaks}>{line.label}</td>
    <td>{listedWords(says)}</td>
    <td className={`num ${styles.stays}`}>{line.sizeBytes === null ? '' : formatBytes(line.sizeBytes)}</td>
    <td className={styles.stays}>{line.sha256 === null ? '' : <HashText hash={line.sha256} />}</td>
  </tr>
);

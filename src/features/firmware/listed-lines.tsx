import type { ReactNode } from 'react';
import type { JudgedLine, JudgedList, ListedVerdict } from '@/core/finding/listed-builds';
import { listedWords } from '@/core/words/listed';
import { formatBytes } from '@/ui/format';
import { HashText } from '@/ui/hash-text';
import styles from './firmware.module.css';

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

/** What a list comes to for one handset. */
export function sentenceOf({ lines, exact }: JudgedList): string {
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

interface Props {
  readonly lines: readonly JudgedLine[];
  /** What can be done with a line, by its place in the list. */
  readonly action?: (one: JudgedLine, index: number) => ReactNode;
}

/** The lines that name a build of the handset's kind, each with its verdict; how many others there are. */
export function ListedLines({ lines, action }: Props) {
  const told = lines.flatMap((one, i) => (one.verdict === 'no build' ? [] : [{ one, i }]));
  const rest = lines.length - told.length;
  return (
    <>
      {told.length > 0 ? (
        <table className="ledger">
          <thead>
            <tr>
              <th>Verdict</th>
              <th>The line</th>
              <th>Why</th>
              <th className="num">Size</th>
              <th>{action ? 'Its file' : 'SHA-256'}</th>
            </tr>
          </thead>
          <tbody>
            {told.map(({ one, i }) => (
              <tr key={`${i} ${one.line.label}`}>
                <td className={styles.stays}>
                  <b className={VERDICTS[one.verdict].mark}>{VERDICTS[one.verdict].words}</b>
                </td>
                <td className={styles.breaks}>{one.line.label}</td>
                <td>{listedWords(one.says)}</td>
                <td className={`num ${styles.stays}`}>
                  {one.line.sizeBytes === null ? '' : formatBytes(one.line.sizeBytes)}
                </td>
                <td>
                  {one.line.sha256 === null ? (
                    <span className="soft">not stated</span>
                  ) : (
                    <HashText hash={one.line.sha256} />
                  )}
                  {action ? <div style={{ marginTop: 4 }}>{action(one, i)}</div> : null}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {rest > 0 ? <p className="soft">{rest} lines name no build of its kind.</p> : null}
    </>
  );
}

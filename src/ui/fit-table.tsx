import { Fragment } from 'react';
import { alignStrings } from '@/core/text/align-strings';
import type { FactComparison } from '@/core/fit/fit-package';
import styles from './ui.module.css';

const VERDICT_WORDS: Readonly<Record<FactComparison['verdict'], string>> = {
  same: 'same',
  differs: 'differs',
  unknown: 'not known',
  'not needed': 'not needed',
};

/** Two strings side by side, every character that differs marked. */
function Marked({ own, other, side }: { own: string | null; other: string | null; side: 'a' | 'b' }) {
  if (own === null) return <span className="soft">not stated</span>;
  if (other === null || own === other) return <>{own}</>;
  const runs =
    side === 'a'
      ? alignStrings(own, other).map((run) => ({ ...run, text: run.a }))
      : alignStrings(other, own).map((run) => ({ ...run, text: run.b }));
  return (
    <>
      {runs.map((run, i) =>
        run.text === '' ? null : run.same ? (
          <Fragment key={i}>{run.text}</Fragment>
        ) : (
          <mark key={i}>{run.text}</mark>
        ),
      )}
    </>
  );
}

interface Props {
  readonly facts: readonly FactComparison[];
  /** The handset's name. */
  readonly name: string;
  /** What stands on the other side. */
  readonly subject?: string;
}

/**
 * Fact by fact: both sides, where each was read, and the verdict. What neither side needs is counted, not
 * listed.
 */
export function FitTable({ facts, name, subject = 'The package' }: Props) {
  const shown = facts.filter((fact) => fact.verdict !== 'not needed');
  const rest = facts.filter((fact) => fact.verdict === 'not needed').map((fact) => fact.fact.toLowerCase());
  return (
    <>
      <table className={`ledger ${styles.fit}`} style={{ marginTop: 12 }}>
        <thead>
          <tr>
            <th style={{ width: 120 }}>Fact</th>
            <th>{subject} says</th>
            <th>{name} says</th>
            <th style={{ width: 200 }}>Verdict</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((fact) => (
            <tr key={fact.fact}>
              <td>{fact.fact}</td>
              <td className="mono" style={{ overflowWrap: 'anywhere' }}>
                <Marked own={fact.package} other={fact.handset} side="a" />
                {fact.packageFrom ? <span className={styles.from}>{fact.packageFrom}</span> : null}
              </td>
              <td className="mono" style={{ overflowWrap: 'anywhere' }}>
                <Marked own={fact.handset} other={fact.package} side="b" />
                {fact.handsetFrom ? <span className={styles.from}>{fact.handsetFrom}</span> : null}
              </td>
              <td className={fact.verdict === 'differs' ? 'bad' : ''}>
                {fact.verdict === 'differs' ? (
                  <b>{VERDICT_WORDS[fact.verdict]}</b>
                ) : (
                  VERDICT_WORDS[fact.verdict]
                )}
                {fact.note ? `: ${fact.note}` : ''}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rest.length > 0 ? <p className="soft small">Not needed here: {rest.join(', ')}.</p> : null}
    </>
  );
}

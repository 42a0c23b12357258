import { Fragment } from 'react';
import type { FactComparison } from '@/core/fit/fit-package';
import { alignStrings } from '@/core/fit/fit-package';
import styles from './firmware.module.css';

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
  return <>{runs.map((run, i) => (run.text === '' ? null : run.same ? <Fragment key={i}>{run.text}</Fragment> : <mark key={i}>{run.text}</mark>))}</>;
}

export function FitTable({ facts, name }: { facts: readonly FactComparison[]; name: string }) {
  return (
    <table className={`ledger ${styles.fit}`} style={{ marginTop: 12 }}>
      <thead>
        <tr>
          <th style={{ width: 120 }}>Fact</th>
          <th>The package says</th>
          <th>{name} says</th>
          <th style={{ width: 150 }}>Verdict</th>
        </tr>
      </thead>
      <tbody>
        {facts.map((fact) => (
          <tr key={fact.fact}>
            <td>{fact.fact}</td>
            <td className="mono" style={{ overflowWrap: 'anywhere' }}>
              <Marked own={fact.package} other={fact.handset} side="a" />
            </td>
            <td className="mono" style={{ overflowWrap: 'anywhere' }}>
              <Marked own={fact.handset} other={fact.package} side="b" />
            </td>
            <td className={fact.verdict === 'differs' ? 'bad' : ''}>
              {fact.verdict === 'differs' ? <b>{VERDICT_WORDS[fact.verdict]}</b> : VERDICT_WORDS[fact.verdict]}
              {fact.note ? `, ${fact.note}` : ''}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

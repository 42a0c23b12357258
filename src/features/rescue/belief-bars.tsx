'use client';
import { useState } from 'react';
import type { Because, Believed } from '@/core/rescue/belief';
import type { CauseId, SymptomId } from '@/core/words/rescue';
import { CAUSE_WORDS, CHECK_WORDS, SYMPTOM_WORDS } from '@/core/words/rescue';
import styles from './rescue.module.css';

const SHOWN = 7;
const LEAST = 0.01;

/** What a line of the arithmetic is about, in words. */
function whyWords({ why }: Because): string {
  if (Object.hasOwn(SYMPTOM_WORDS, why)) return `where it shows: ${SYMPTOM_WORDS[why as SymptomId]}`;
  const [check, answer] = why.split(': ');
  if (check !== undefined && answer !== undefined && Object.hasOwn(CHECK_WORDS, check)) {
    const { asks, answers } = CHECK_WORDS[check as keyof typeof CHECK_WORDS];
    return `${asks} ${(answers as Readonly<Record<string, string>>)[answer] ?? answer}`;
  }
  return why;
}

function Arithmetic({ because }: Pick<Believed, 'because'>) {
  return (
    <table className={styles.sums}>
      <tbody>
        {because.map((one, i) => (
          <tr key={`${i} ${one.why}`}>
            <td className="num">
              {i === 0 ? '' : '× '}
              {one.times < 0.1 ? one.times.toFixed(2) : Number(one.times.toFixed(2))}
            </td>
            <td>{whyWords(one)}</td>
          </tr>
        ))}
        <tr>
          <td className="num">
            = {because.reduce((product, { times }) => product * times, 1).toPrecision(2)}
          </td>
          <td>held against the same of every other cause</td>
        </tr>
      </tbody>
    </table>
  );
}

/** What is believed, as bars; one press shows the arithmetic of each. */
export function BeliefBars({ believed }: { readonly believed: readonly Believed[] }) {
  const [open, setOpen] = useState<CauseId | null>(null);
  const shown = believed.filter(({ chance }) => chance >= LEAST).slice(0, SHOWN);
  const rest = 1 - shown.reduce((sum, { chance }) => sum + chance, 0);
  return (
    <section aria-label="What is believed" className={styles.belief}>
      <h2>What may be behind it</h2>
      {shown.map(({ cause, chance, because }) => (
        <div key={cause}>
          <button
            type="button"
            className={styles.cause}
            aria-expanded={open === cause}
            onClick={() => setOpen(open === cause ? null : cause)}
          >
            <span>{CAUSE_WORDS[cause]}</span>
            <span className="num">{Math.round(chance * 100)} %</span>
            <span className={styles.bar} style={{ width: `${Math.max(1, chance * 100)}%` }} />
          </button>
          {open === cause ? <Arithmetic because={because} /> : null}
        </div>
      ))}
      <p className="soft small">
        {believed.length - shown.length} more have {Math.round(rest * 100)} % together. How often each happens
        at all is stated, and your own closed cases count beside it.
      </p>
    </section>
  );
}

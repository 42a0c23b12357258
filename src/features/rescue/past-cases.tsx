import type { PastCase } from '@/contracts/rescue-view';
import { CAUSE_WORDS, REPAIR_WORDS, RUNG_WORDS, SYMPTOM_WORDS } from '@/core/words/rescue';
import { formatTime } from '@/ui/format';
import styles from './rescue.module.css';

const SHOWN = 6;

/** What it was before on this handset: what showed, what helped, and how long it took. */
export function PastCases({ past }: { readonly past: readonly PastCase[] }) {
  if (past.length === 0) return null;
  return (
    <section aria-label="Cases before" className={styles.past}>
      <h3>It had trouble before</h3>
      {past.slice(0, SHOWN).map(({ at, minutes, symptoms, helped: { repair, rung }, cause }) => (
        <p key={at} className="small">
          <b>{formatTime(at)}</b>
          {minutes === null ? '' : `, ${minutes} min`}:{' '}
          {symptoms.map((symptom) => SYMPTOM_WORDS[symptom]).join('; ')}. What helped:{' '}
          <b>{rung ? RUNG_WORDS[rung] : repair ? REPAIR_WORDS[repair] : 'nothing'}</b>
          {cause ? ` (${CAUSE_WORDS[cause]})` : ''}.
        </p>
      ))}
    </section>
  );
}

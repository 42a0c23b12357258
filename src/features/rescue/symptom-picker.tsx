'use client';
import type { SymptomId } from '@/core/words/rescue';
import { SYMPTOM_WORDS } from '@/core/words/rescue';
import styles from './rescue.module.css';

/** What is drawn on the small screen: strokes of a path, and whether it is crossed out. */
const DRAWN: Readonly<Record<SymptomId, readonly [path: string, crossed: boolean]>> = {
  loops: ['M11 17a5 5 0 1 1 2 7M11 17l-1 4 4-1', false],
  logo: ['M15 14l5 6-5 6-5-6z', false],
  'in-recovery': ['M9 12h12M9 17h12M9 22h7M9 27h9', false],
  'in-bootloader': ['M9 12h12M15 17l5 9H10z', false],
  'no-root': ['M15 14l5 6-5 6-5-6z', true],
  'root-denied': ['M9 14h12v12H9zM12 20h6', true],
  'update-refused': ['M15 12v12M10 19l5 6 5-6', true],
  'recovery-stock': ['M9 12h12M9 17h12M12 25a3 3 0 1 0 6 0 3 3 0 1 0-6 0', false],
  'recovery-dead': ['M9 12h12M9 17h12M9 22h7', true],
  'not-listed': ['M15 30v-6M12 24h6M15 12v5M15 17l-3 3M15 17l3 3', true],
  'write-refused': ['M10 26l2-6 7-7 3 3-7 7z', true],
  'asks-password': ['M9 20h12M11 17v0M15 17v0M19 17v0', false],
  'storage-unreadable': ['M9 14h5l2 2h5v10H9z', true],
  'zip-unseen': ['M11 12h6l3 3v13h-9zM14 16v8', true],
  'touch-dead': ['M15 14v8M12 22l3 6 4-4-4-4', true],
  'radio-dead': ['M10 26v-4M14 26v-7M18 26v-10', true],
  dead: ['', false],
};

function Drawing({ symptom }: { readonly symptom: SymptomId }) {
  const [path, crossed] = DRAWN[symptom];
  return (
    <svg width="26" height="36" viewBox="0 0 30 40" aria-hidden="true">
      <rect
        x="3"
        y="2"
        width="24"
        height="36"
        rx="4"
        fill={symptom === 'dead' ? 'var(--ink)' : 'none'}
        stroke="currentColor"
        strokeWidth="1.6"
      />
      <path
        d={path}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.8"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
      {crossed ? <path d="M7 32 23 8" stroke="var(--bad)" strokeWidth="2" /> : null}
    </svg>
  );
}

/** What can be seen, drawn and in words; several at once. */
export function SymptomPicker({
  chosen,
  onChange,
}: {
  readonly chosen: readonly SymptomId[];
  readonly onChange: (symptom: SymptomId) => void;
}) {
  return (
    <div className={styles.symptoms} role="group" aria-label="What does it show?">
      {(Object.keys(SYMPTOM_WORDS) as SymptomId[]).map((symptom) => (
        <button
          key={symptom}
          type="button"
          aria-pressed={chosen.includes(symptom)}
          className={styles.symptom}
          onClick={() => onChange(symptom)}
        >
          <Drawing symptom={symptom} />
          <span>{SYMPTOM_WORDS[symptom]}</span>
        </button>
      ))}
    </div>
  );
}

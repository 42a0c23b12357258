import type { Evidence } from '@/core/rounds/evidence';
import styles from './ui.module.css';

export function EvidenceList({ evidence }: { evidence: readonly Evidence[] }) {
  if (evidence.length === 0) return null;
  return (
    <ul className={styles.evidence}>
      {evidence.map((item) => (
        <li key={item.what}>
          {item.says === 'no' ? (
            <b className="bad">says no </b>
          ) : item.says === 'unknown' ? (
            <b className="wait">unknown </b>
          ) : item.strength === 'weak' ? (
            <b className="wait">weak </b>
          ) : null}
          {item.what}
        </li>
      ))}
    </ul>
  );
}

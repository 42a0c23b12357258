import type { ProofLine } from '@/core/patch/prove-patch';
import styles from './image.module.css';

/** A proof, check by check; ticks and crosses, never a colour alone. */
export function ProofList({ proof }: { proof: readonly ProofLine[] }) {
  return (
    <ol className={styles.proof}>
      {proof.map((line, i) => (
        <li key={line.check}>
          <span className="soft">{i + 1}</span>
          <span>{line.check}</span>
          <b className={line.ok ? '' : 'bad'}>{line.ok ? '✓ holds' : '✗ fails'}</b>
        </li>
      ))}
    </ol>
  );
}

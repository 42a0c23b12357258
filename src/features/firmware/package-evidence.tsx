import type { PackageReport } from '@/core/packages/package-report';
import styles from './firmware.module.css';

/** What in a file says what it is, and what to be warned of. */
export function PackageEvidence({ report }: { report: PackageReport }) {
  return (
    <ul className={styles.evidence}>
      {report.evidence.map((line) => (
        <li key={line}>{line}</li>
      ))}
      {report.warnings.map((line) => (
        <li key={line} className="wait">
          {line}
        </li>
      ))}
    </ul>
  );
}

import type { OpenPackage } from './use-package';
import styles from './firmware.module.css';

/** What in a file says what it is, and what to be warned of. */
export function PackageEvidence({
  pack: { report, readBy },
}: {
  pack: Pick<OpenPackage, 'report' | 'readBy'>;
}) {
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
      {readBy === 'page' ? (
        <li className="wait">
          Only this page could open it. An image taken out of it counts as stock only if it says so itself.
        </li>
      ) : null}
    </ul>
  );
}

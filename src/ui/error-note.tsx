import type { ErrorData } from '@/core/errors';
import { ERROR_WORDS } from './error-words';
import styles from './ui.module.css';

/** An error in words: what happened, to which file, what is safe, what next. */
export function ErrorNote({ error, onDismiss }: { error: ErrorData; onDismiss?: () => void }) {
  const words = ERROR_WORDS[error.code];
  return (
    <div className={styles.error} role="alert">
      <div>
        <b>{words.what}</b> {error.message}
        {error.file ? (
          <div className="small mono">
            {error.file}
            {error.offset === undefined ? '' : `, byte ${error.offset}`}
          </div>
        ) : null}
        <div className="small">
          {words.safe} <b>{words.next}</b>
        </div>
      </div>
      {onDismiss ? (
        <button type="button" className={styles.plain} onClick={onDismiss} aria-label="Close this message">
          ×
        </button>
      ) : null}
    </div>
  );
}

'use client';
import { shortHash } from './format';
import { useCopy } from './use-copy';
import styles from './ui.module.css';

/** A hash by its ends; a press copies all of it. */
export function HashText({ hash, whole = false }: { hash: string; whole?: boolean }) {
  const copy = useCopy();
  return (
    <button
      type="button"
      className={styles.hash}
      title={`${hash} — press to copy`}
      aria-label={`Copy ${hash}`}
      onClick={() => copy(hash)}
    >
      {whole ? hash : shortHash(hash)}
    </button>
  );
}

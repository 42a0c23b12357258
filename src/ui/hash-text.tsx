'use client';
import { App } from 'antd';
import { shortHash } from './format';
import styles from './ui.module.css';

/** A hash by its ends; a press copies all of it. */
export function HashText({ hash, whole = false }: { hash: string; whole?: boolean }) {
  const { message } = App.useApp();
  const copy = () => {
    void navigator.clipboard.writeText(hash).then(
      () => message.info('Copied'),
      () => message.warning('The browser did not let it be copied'),
    );
  };
  return (
    <button
      type="button"
      className={styles.hash}
      title={`${hash} — press to copy`}
      aria-label={`Copy ${hash}`}
      onClick={copy}
    >
      {whole ? hash : shortHash(hash)}
    </button>
  );
}

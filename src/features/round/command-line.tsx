'use client';
import { App, Button } from 'antd';
import styles from './round.module.css';

/** One command, to be copied. */
export function CommandLine({ does, command }: { readonly does: string; readonly command: string }) {
  const { message } = App.useApp();
  const copy = () =>
    void navigator.clipboard.writeText(command).then(
      () => message.info('Copied'),
      () => message.warning('The browser did not let it be copied'),
    );
  return (
    <div className={styles.command}>
      <code className="mono small">{command}</code>
      <Button size="small" type="text" aria-label={`Copy: ${does}`} onClick={copy}>
        Copy
      </Button>
    </div>
  );
}

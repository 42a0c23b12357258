'use client';
import { Button } from 'antd';
import { useCopy } from '@/ui/use-copy';
import styles from './round.module.css';

/** One command, to be copied. */
export function CommandLine({ does, command }: { readonly does: string; readonly command: string }) {
  const copy = useCopy();
  return (
    <div className={styles.command}>
      <code className="mono small">{command}</code>
      <Button size="small" type="text" aria-label={`Copy: ${does}`} onClick={() => copy(command)}>
        Copy
      </Button>
    </div>
  );
}

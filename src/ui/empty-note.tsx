import type { ReactNode } from 'react';
import styles from './ui.module.css';

/** What a room shows before there is anything in it: what it is for, and the one thing to do. */
export function EmptyNote({
  title,
  children,
  action,
}: {
  title: string;
  children: ReactNode;
  action?: ReactNode;
}) {
  return (
    <div className={styles.empty}>
      <h2>{title}</h2>
      <p className="soft" style={{ margin: '6px 0 14px' }}>
        {children}
      </p>
      {action}
    </div>
  );
}

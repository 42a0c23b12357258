import type { ReactNode } from 'react';
import ui from './ui.module.css';

/** What comes next in a room: one sentence and the one button that does it. */
export function NextStrip({
  action,
  children,
}: {
  readonly action: ReactNode;
  readonly children: ReactNode;
}) {
  return (
    <div className={ui.next}>
      <span>{children}</span>
      {action}
    </div>
  );
}

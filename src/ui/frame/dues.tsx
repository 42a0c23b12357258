'use client';
import { Popover } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useEffect } from 'react';
import type { Due } from '@/core/schedule/dues';
import styles from './frame.module.css';
import { dueLine } from './due-line';
import { tellOnce } from './notices';

/** The longest that a timer can run, milliseconds. */
const LONGEST = 2_147_483_647;

interface Props {
  readonly dues: readonly Due[];
  readonly dueInMs: number | null;
}

/** What is due, in every room; the page looks again by itself when the next wait ends. */
export function Dues({ dues, dueInMs }: Props) {
  const router = useRouter();
  useEffect(() => {
    if (dueInMs === null) return;
    const timer = setTimeout(() => router.refresh(), Math.min(dueInMs + 500, LONGEST));
    return () => clearTimeout(timer);
  }, [dueInMs, router]);
  useEffect(() => tellOnce(dues), [dues]);
  const [first] = dues;
  return (
    <span aria-live="polite">
      {first ? (
        <Popover
          placement="topLeft"
          content={
            <ul className={styles.dues}>
              {dues.map((due) => (
                <li key={due.key}>
                  <Link href={`/handsets/${due.handsetId}`}>{dueLine(due)}</Link>
                </li>
              ))}
            </ul>
          }
        >
          <Link href="/calendar" className={styles.due}>
            Due: {dueLine(first)}
            {dues.length > 1 ? `, and ${dues.length - 1} more` : ''}
          </Link>
        </Popover>
      ) : null}
    </span>
  );
}

'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { onServerGone, serverIsThere } from '../ask-server';
import styles from './frame.module.css';

/** How often it is looked for: while it is there, and while it is gone. */
const THERE_MS = 10_000;
const GONE_MS = 2000;

/** A band while the server does not answer; when it is back, the page goes on by itself. */
export function ServerGone() {
  const router = useRouter();
  const [gone, setGone] = useState(false);
  useEffect(() => onServerGone(() => setGone(true)), []);
  useEffect(() => {
    let over = false;
    const timer = setInterval(
      () => {
        if (document.hidden) return;
        void serverIsThere().then((there) => {
          if (over) return;
          if (there && gone) router.refresh();
          setGone(!there);
        });
      },
      gone ? GONE_MS : THERE_MS,
    );
    return () => {
      over = true;
      clearInterval(timer);
    };
  }, [gone, router]);
  if (!gone) return null;
  return (
    <div className={styles.gone} role="alert">
      <b>Eterno’s server does not answer.</b> What you typed stays here. Start the server again: this page
      goes on by itself.
    </div>
  );
}

'use client';
import { Link } from '@/ui/link';
import { usePathname } from 'next/navigation';
import { createContext, useContext, useEffect, useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import type { HandsetSummary } from '@/contracts/handset-view';
import { shortBuild } from '../format';
import { StateMark } from '../state-mark';
import styles from './frame.module.css';

const CurrentContext = createContext<{ current: string | null; setCurrent: (id: string | null) => void }>({
  current: null,
  setCurrent: () => undefined,
});

export function CurrentHandsetProvider({ children }: { children: ReactNode }) {
  const [current, setCurrent] = useState<string | null>(null);
  const value = useMemo(() => ({ current, setCurrent }), [current]);
  return <CurrentContext value={value}>{children}</CurrentContext>;
}

/** The handset that the room of now is about. */
export const useCurrent = () => useContext(CurrentContext).current;

/** Tells the shelf which handset a room is about. */
export function useCurrentHandset(id: string): void {
  const { setCurrent } = useContext(CurrentContext);
  useEffect(() => {
    setCurrent(id);
    return () => setCurrent(null);
  }, [id, setCurrent]);
}

/** One tab a handset, in every room but the Bench. */
export function Shelf({ handsets }: { handsets: readonly HandsetSummary[] }) {
  const path = usePathname();
  const { current } = useContext(CurrentContext);
  if (path === '/' || handsets.length === 0) return <div />;
  return (
    <nav className={styles.shelf} aria-label="Handsets">
      {handsets.map((handset) => (
        <Link
          key={handset.id}
          href={`/handsets/${handset.id}`}
          aria-current={current === handset.id ? 'page' : undefined}
        >
          <StateMark state={handset.root} size={15} />
          <span className={styles.shelfName} title={handset.name}>
            {handset.name}
          </span>
          {handset.build ? <span className="mono">{shortBuild(handset.build)}</span> : null}
        </Link>
      ))}
    </nav>
  );
}

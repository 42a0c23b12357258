'use client';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import type { HandsetSummary } from '@/contracts/handset-view';
import { shortBuild } from '../format';
import { StateMark } from '../state-mark';
import styles from './frame.module.css';

/** One tab a handset, in every room but the Bench. */
export function Shelf({ handsets }: { handsets: readonly HandsetSummary[] }) {
  const path = usePathname();
  if (path === '/' || handsets.length === 0) return <div />;
  return (
    <nav className={styles.shelf} aria-label="Handsets">
      {handsets.map((handset) => (
        <Link key={handset.id} href={`/handsets/${handset.id}`} aria-current={path.includes(handset.id) ? 'page' : undefined}>
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

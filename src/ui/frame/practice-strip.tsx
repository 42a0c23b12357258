'use client';
import { createContext, useContext } from 'react';
import { Link } from '../link';
import styles from './frame.module.css';

/** What is practised, and the address of the Eterno that it was begun from. */
export interface PracticeMark {
  readonly title: string;
  readonly home: string;
  /** By how much quicker its waits pass. */
  readonly pace: number;
}

const PracticeContext = createContext<PracticeMark | null>(null);
export const PracticeProvider = PracticeContext.Provider;
/** Whether this is practice: hints are there only for who asks for them. */
export const useIsPractice = (): boolean => useContext(PracticeContext) !== null;

/** Above every room of practice. */
export function PracticeStrip({ mark }: { readonly mark: PracticeMark }) {
  return (
    <aside aria-label="Practice" className={styles.strip}>
      <b>Practice</b>
      <span title={mark.title}>
        Nothing here touches your own handsets.
        {mark.pace > 1 ? ` Waits pass ${mark.pace} times as quick as the times named here.` : ''} {mark.title}
      </span>
      <Link href="/practice">How it went</Link>
      <a href={mark.home}>Back to your own Eterno</a>
    </aside>
  );
}

'use client';
import type { PracticeView } from '@/contracts/practice-view';
import { Debriefs } from './debriefs';
import styles from './practice.module.css';
import { Scenes } from './scenes';
import { Slips } from './slips';
import { OpenWorld } from './open-world';

/** Where people fail without harm: scenes to begin, and, in practice itself, how it went. */
export function PracticeRoom({ view }: { readonly view: PracticeView }) {
  if (view.own)
    return (
      <div className={styles.room}>
        <h1>How it went</h1>
        <Debriefs own={view.own} debriefs={view.debriefs} />
      </div>
    );
  return (
    <div className={styles.room}>
      <h1>Practice</h1>
      <p className="soft">
        A simulated handset in an Eterno of its own: another store, another vault, other processes. Nothing
        that you do there reaches your own handsets, their records or their times.
      </p>
      <OpenWorld open={view.open} />
      <Scenes works={view.works} />
      <Slips slips={view.slips} />
    </div>
  );
}

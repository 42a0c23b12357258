'use client';
import { Button } from 'antd';
import type { PracticeView } from '@/contracts/practice-view';
import { Link } from '@/ui/link';
import { NextStrip } from '@/ui/next-strip';
import { Debriefs } from './debriefs';
import styles from './practice.module.css';
import { Scenes } from './scenes';
import { Slips } from './slips';
import { OpenWorld } from './open-world';

/** Where people fail without harm: scenes to begin, and, in practice itself, how it went. */
export function PracticeRoom({
  view,
  copied,
}: {
  readonly view: PracticeView;
  /** A handset of one's own that is to be copied; null for an invented one. */
  readonly copied: string | null;
}) {
  if (view.own)
    return (
      <div className={styles.room}>
        <h1>How it went</h1>
        <Debriefs own={view.own} view={view} />
      </div>
    );
  return (
    <div className={styles.room}>
      <h1>Practice</h1>
      <p className="soft">
        A simulated handset in an Eterno of its own: another store, another vault, other processes. Nothing
        that you do there reaches your own handsets, their records or their times.
      </p>
      {view.same ? <SameWay handsets={view.same} /> : null}
      <OpenWorld open={view.open} />
      <Scenes view={view} copied={copied} />
      <Slips slips={view.slips} />
    </div>
  );
}

/** What was learnt in practice, as a round of one's own: the same goal, limits and lane. */
function SameWay({ handsets }: { readonly handsets: NonNullable<PracticeView['same']> }) {
  return (
    <NextStrip action={null}>
      {handsets.length === 0 ? (
        'Put a handset on the bench first: then what you practised can be begun for it.'
      ) : (
        <span>
          The same way for a handset of your own. Nothing is begun before you have seen its plan:{' '}
          {handsets.map(({ name, href }) => (
            <Link key={href} href={href}>
              <Button size="small">{name}</Button>
            </Link>
          ))}
        </span>
      )}
    </NextStrip>
  );
}

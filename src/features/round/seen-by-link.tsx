'use client';
import { Button } from 'antd';
import { useEffect, useState } from 'react';
import type { RoundSight, RoundView } from '@/contracts/round-view';
import { itRestartedAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

const LOOK_MS = 4000;

const WORDS: Readonly<Record<Exclude<RoundSight, 'fine'>, readonly [string, string]>> = {
  loops: [
    'The handset starts over and over.',
    'It came on the cable again and again, and its system never did. It is written down, and the way on begins with a repair.',
  ],
  restarted: [
    'The handset restarted, and no step asked for it.',
    'What runs now is read, the restart is written down, and the way on is planned from there.',
  ],
};

/** What the link sees of the handset between two steps, where it matters: the round goes on from there. */
export function SeenByLink({
  round,
  actions,
}: {
  readonly round: RoundView;
  readonly actions: RoundActions;
}) {
  const [seen, setSeen] = useState<{ readonly version: number; readonly sight: RoundSight } | null>(null);
  const { id, version, runningJob } = round;
  const waits =
    round.handset.link === 'stand-in' && round.state === 'open' && runningJob === null && !actions.busy;
  useEffect(() => {
    if (!waits) return;
    let over = false;
    const timer = setInterval(() => {
      if (document.hidden) return;
      void fetch(`/api/rounds/${id}/sight`, { cache: 'no-store' })
        .then(async (answer) => (answer.ok ? ((await answer.json()) as { sight: RoundSight }) : null))
        .catch(() => null)
        .then((found) => {
          if (found && !over) setSeen({ version, sight: found.sight });
        });
    }, LOOK_MS);
    return () => {
      over = true;
      clearInterval(timer);
    };
  }, [id, version, waits]);
  if (!waits || seen === null || seen.version !== version || seen.sight === 'fine') return null;
  const [what, rest] = WORDS[seen.sight];
  return (
    <div className={styles.interlock} role="alert">
      <div>
        <b>{what}</b> {rest}
      </div>
      <div className={styles.interlockActions}>
        <Button
          size="small"
          type="primary"
          loading={actions.busy}
          onClick={() => actions.run(itRestartedAction)}
        >
          Plan the way on
        </Button>
      </div>
    </div>
  );
}

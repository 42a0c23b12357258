'use client';
import { Button, Popconfirm } from 'antd';
import type { Interlock } from '@/core/rounds/interlock';
import { itRestartedAction, refuseOfferAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

/**
 * Nothing may restart now: why, how many offers were refused, what opens it, and what to do if it happened
 * all the same.
 */
export function InterlockNote({
  interlock,
  actions,
}: {
  readonly interlock: Interlock;
  readonly actions: RoundActions;
}) {
  const { why, cost, opens, refused, offers } = interlock;
  return (
    <div className={styles.interlock} role="status">
      <div>
        <b>Do not restart now.</b> {why} {cost}
        <div className="small">
          {offers > 0 ? `Restart offers refused: ${refused} of about ${offers}. ` : ''}You may restart at{' '}
          {opens}.
        </div>
      </div>
      <div className={styles.interlockActions}>
        {offers > 0 ? (
          <Button size="small" loading={actions.busy} onClick={() => actions.run(refuseOfferAction)}>
            I refused an offer
          </Button>
        ) : null}
        <Popconfirm
          title="It restarted?"
          description="Eterno reads what runs now, writes the slip down, and plans the way on anew."
          okText="Yes, plan anew"
          cancelText="No"
          onConfirm={() => actions.run(itRestartedAction)}
        >
          <Button size="small" danger loading={actions.busy}>
            It restarted
          </Button>
        </Popconfirm>
      </div>
    </div>
  );
}

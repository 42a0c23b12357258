'use client';
import { Button } from 'antd';
import type { RoundStepView, RoundView } from '@/contracts/round-view';
import { USUAL_CHANGES } from '@/core/words/put-backs';
import { notePutBackAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

/**
 * What a person changes for a while beside the step itself: from that moment it is on the list of what has to
 * be put back, and the round does not close without it.
 */
export function ChangedForNow({
  round,
  step,
  actions,
}: {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
}) {
  const left = USUAL_CHANGES.filter((what) => !round.putBacks.some((one) => one.what === what));
  if (left.length === 0 || step.mode === 'computer' || step.key === 'close') return null;
  return (
    <details className={`${styles.again} small`}>
      <summary className="soft">I changed something else for this step</summary>
      <p>It goes on the list of what to put back, and is asked for before the round is closed.</p>
      <div className={styles.actions}>
        {left.map((what) => (
          <Button
            key={what}
            size="small"
            loading={actions.busy}
            onClick={() => actions.run(() => notePutBackAction(round.handset.id, round.id, what))}
          >
            {what}
          </Button>
        ))}
      </div>
    </details>
  );
}

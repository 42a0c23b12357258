'use client';
import { Button } from 'antd';
import type { RoundView } from '@/contracts/round-view';
import { lowerFirst } from '@/core/words/sentence';
import { unreached } from '@/core/rounds/sign-off';
import { closeAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

/** The end of a round, below what it is signed off by: reached, or not; what is still changed goes along by name. */
export function CloseForm({ round, actions }: { readonly round: RoundView; readonly actions: RoundActions }) {
  const open = unreached(round.signOff);
  const { putBacks } = round;
  const carryOver = putBacks.map(({ id }) => id);
  const along = putBacks.length === 0 ? '' : ', and take along what is still changed';
  return (
    <>
      {open.length > 0 ? (
        <p>
          <b className="wait">Not reached:</b> {open.map(({ claim }) => lowerFirst(claim)).join('; ')}. You
          can show it first, or close the round as not reached. It then is no model for the next one.
        </p>
      ) : null}
      {putBacks.length > 0 ? (
        <p>
          <b className="wait">Still changed:</b> {putBacks.map(({ what }) => lowerFirst(what)).join('; ')}. It
          stays on the handset’s list until you put it back.
        </p>
      ) : null}
      <div className={styles.actions}>
        <Button
          type={open.length > 0 ? 'default' : 'primary'}
          loading={actions.busy}
          onClick={() => actions.run((at) => closeAction(at, { notReached: open.length > 0, carryOver }))}
        >
          {open.length > 0 ? 'Close it as not reached' : 'Close the round'}
          {along}
        </Button>
      </div>
    </>
  );
}

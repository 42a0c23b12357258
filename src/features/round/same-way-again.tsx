import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView } from '@/contracts/round-view';
import { againWords } from '@/contracts/round-view';
import { NextStrip } from '@/ui/next-strip';
import { answerAgainAction } from './actions';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly actions: RoundActions;
}

/** The one question at the end: the next round of this kind starts from the answer. */
export function SameWayAgain({ round, actions }: Props) {
  const [asking, setAsking] = useState(round.again === null);
  const [why, setWhy] = useState(round.again?.note ?? '');
  if (round.state !== 'closed') return null;
  const answer = (again: 'yes' | 'no') => {
    actions.run((at) => answerAgainAction(at, again, why));
    setAsking(false);
  };
  if (!asking && round.again)
    return (
      <p>
        {againWords(round.again)}{' '}
        <Button size="small" type="text" onClick={() => setAsking(true)}>
          Answer anew
        </Button>
      </p>
    );
  return (
    <NextStrip
      action={
        <span style={{ display: 'flex', gap: 8 }}>
          <Button type="primary" loading={actions.busy} onClick={() => answer('yes')}>
            The same way
          </Button>
          <Button disabled={why.trim() === ''} loading={actions.busy} onClick={() => answer('no')}>
            Not like this
          </Button>
        </span>
      }
    >
      <b>Would you do it the same way again?</b> The next round of this kind starts from a good one, with what
      is new lit up.
      <Input
        size="small"
        style={{ width: 380, display: 'block', marginTop: 6 }}
        placeholder="If not: what was wrong with it"
        aria-label="What was wrong with it"
        maxLength={500}
        value={why}
        onChange={(event) => setWhy(event.target.value)}
      />
    </NextStrip>
  );
}

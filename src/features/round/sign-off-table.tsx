'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { PutBackView, RoundView } from '@/contracts/round-view';
import { EvidenceList } from '@/ui/evidence-list';
import { formatTime } from '@/ui/format';
import { closePutBackAction, notePutBackAction } from './actions';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly actions: RoundActions;
}

/** Each claim with its evidence, and what was changed for a while and is still open. */
export function SignOff({ round, actions }: Props) {
  return (
    <>
      <h2 style={{ marginTop: 14 }}>Sign-off</h2>
      <table className="ledger">
        <tbody>
          {round.signOff.map((claim) => (
            <tr key={claim.claim}>
              <td style={{ width: '34%' }}>
                <b>{claim.claim}</b>
              </td>
              <td>
                {claim.evidence.length > 0 ? <EvidenceList evidence={claim.evidence} /> : null}
                {claim.missing === null ? null : (
                  <b className={claim.verdict === 'holds' || !claim.decides ? 'wait' : 'bad'}>
                    {claim.missing}
                  </b>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <PutBacks round={round} actions={actions} />
    </>
  );
}

function PutBacks({ round, actions }: Props) {
  const [what, setWhat] = useState('');
  const { id: handsetId } = round.handset;
  if (round.state !== 'open') return null;
  return (
    <div style={{ marginTop: 12 }}>
      <h3>To put back</h3>
      {round.putBacks.map((one) => (
        <PutBackRow
          key={one.id}
          one={one}
          close={(how) => actions.run(() => closePutBackAction(handsetId, round.id, one.id, how))}
        />
      ))}
      <p style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
        <Input
          size="small"
          style={{ width: 320 }}
          placeholder="Something else, such as a screen lock that was taken off"
          aria-label="Something that has to be put back"
          value={what}
          onChange={(event) => setWhat(event.target.value)}
        />
        <Button
          size="small"
          disabled={what.trim() === ''}
          onClick={() => actions.run(() => notePutBackAction(handsetId, round.id, what))}
        >
          Keep it in mind
        </Button>
      </p>
    </div>
  );
}

function PutBackRow({ one, close }: { one: PutBackView; close: (how: string) => void }) {
  const [how, setHow] = useState('');
  return (
    <p style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
      <span>
        {one.what} <span className="soft small">since {formatTime(one.openedAt)}</span>
      </span>
      <Input
        size="small"
        style={{ width: 220 }}
        aria-label={`How was it put back: ${one.what}`}
        placeholder="How, if it matters"
        value={how}
        onChange={(event) => setHow(event.target.value)}
      />
      <Button size="small" onClick={() => close(how)}>
        It is put back
      </Button>
    </p>
  );
}

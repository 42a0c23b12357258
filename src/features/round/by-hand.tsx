'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView, StepView } from '@/contracts/round-view';
import { pasteAction, sayAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly step: StepView;
  readonly actions: RoundActions;
}

const PASTE: Readonly<Partial<Record<StepView['key'], string>>> = {
  'read-facts': 'Paste the property dump of the running system',
  'enter-bootloader': 'Paste all bootloader variables',
};
const SAY: Readonly<Partial<Record<StepView['key'], string>>> = {
  'enter-bootloader': 'Or say what its screen shows',
  'write-image': 'Say what your tool answered',
  restart: 'Say what you saw',
  'prove-root': 'Say what you saw, and where',
};

/** The same step on a real handset: what to download, which command, and what was seen. Words are weak evidence, and marked so. */
export function ByHand({ round, step, actions }: Props) {
  const [text, setText] = useState('');
  const [seen, setSeen] = useState('');
  const paste = PASTE[step.key];
  const say = SAY[step.key];
  if (!paste && !say) return null;
  return (
    <div className={styles.hand}>
      <b>By hand</b>
      {step.key === 'write-image' && round.patched ? <WriteByHand round={round} /> : null}
      {paste ? (
        <div>
          <label>
            <span className="soft small">{paste}</span>
            <Input.TextArea rows={4} className="mono" spellCheck={false} value={text} onChange={(event) => setText(event.target.value)} />
          </label>
          <Button
            size="small"
            style={{ marginTop: 6 }}
            disabled={text.trim() === ''}
            loading={actions.busy}
            onClick={() => actions.run((at) => pasteAction(at, text))}
          >
            Read it
          </Button>
        </div>
      ) : null}
      {say ? (
        <div style={{ marginTop: 8 }}>
          <label>
            <span className="soft small">{say}; your word counts as weak evidence</span>
            <Input value={seen} maxLength={2000} onChange={(event) => setSeen(event.target.value)} />
          </label>
          <Button
            size="small"
            style={{ marginTop: 6 }}
            disabled={seen.trim() === ''}
            loading={actions.busy}
            onClick={() => actions.run((at) => sayAction(at, seen))}
          >
            I saw this
          </Button>
        </div>
      ) : null}
    </div>
  );
}

function WriteByHand({ round }: { round: RoundView }) {
  const patched = round.patched!;
  const slot = round.handset.slot ? ` --slot ${round.handset.slot}` : '';
  return (
    <div>
      <p className="small">
        <a href={`/api/images/${patched.sha256}`}>Download the patched image</a> and write it with your own tool. With Eterno’s own command, over a
        link that speaks the wire protocol:
      </p>
      <code className="mono small">
        eterno write --to HOST:PORT --partition {patched.partition}
        {slot} IMAGE
      </code>
    </div>
  );
}

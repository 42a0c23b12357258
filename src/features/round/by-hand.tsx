'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView, RoundStepView } from '@/contracts/round-view';
import { readOutput } from '@/core/rounds/read-output';
import type { StepKey } from '@/core/steps/step-key';
import { DONE_HERE } from '@/core/steps/deeds';
import { pasteAction, sayAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
}

const PASTE: Readonly<Partial<Record<StepKey, string>>> = {
  'read-facts': 'Paste the property dump of the running system',
  bootloader: 'Paste all bootloader variables',
  start: 'Paste the property dump of the running system',
  debugging: 'Paste the property dump of the running system',
  unlock: 'Paste all bootloader variables',
  lock: 'Paste all bootloader variables',
};

/**
 * The same step on a real handset: what to download, which command, and what was seen. Words are weak
 * evidence, and marked so.
 */
export function ByHand({ round, step, actions }: Props) {
  const [text, setText] = useState('');
  const [seen, setSeen] = useState('');
  const paste = PASTE[step.key];
  const say = step.key !== 'read-facts' && !DONE_HERE.includes(step.key);
  if (!paste && !say) return null;
  return (
    <div className={styles.hand}>
      <b>By hand</b>
      {round.image && step.writes ? (
        <p className="small">
          <a href={`/api/images/${round.image.sha256}`}>Download the image</a> and write it with your own
          tool; its hash first.
        </p>
      ) : null}
      {step.expected.length > 0 ? <p className="small">What proves it: {step.expected.join(' ')}</p> : null}
      {step.command === null ? null : <code className="mono small">{step.command}</code>}
      {paste ? (
        <div>
          <label>
            <span className="soft small">{paste}</span>
            <Input.TextArea
              rows={4}
              className="mono"
              spellCheck={false}
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
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
      {say ? <Output step={step} actions={actions} /> : null}
      {say ? (
        <div style={{ marginTop: 8 }}>
          <label>
            <span className="soft small">Say what you saw; your word counts as weak evidence</span>
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

const VERDICTS = {
  success: '✓ went well',
  harmless: '· harmless here',
  fault: '✗ a fault',
  unknown: '? not known',
} as const;

/** Whatever a tool printed, judged at this very step as it is typed. */
function Output({ step, actions }: { step: RoundStepView; actions: RoundActions }) {
  const [printed, setPrinted] = useState('');
  const found = printed.trim() === '' ? null : readOutput(step.key, printed);
  return (
    <div style={{ marginTop: 8 }}>
      <label>
        <span className="soft small">Paste what your tool printed, for its verdict at this step</span>
        <Input.TextArea
          rows={3}
          className="mono"
          spellCheck={false}
          value={printed}
          onChange={(event) => setPrinted(event.target.value)}
        />
      </label>
      {found ? (
        <div aria-live="polite" className="small" style={{ marginTop: 4 }}>
          <b className={found.verdict === 'fault' ? 'bad' : found.verdict === 'success' ? '' : 'wait'}>
            {VERDICTS[found.verdict]}
          </b>
          : {found.says} {found.next}
          {found.line === null ? null : <code className="mono small">{found.line}</code>}
          {found.verdict === 'success' ? (
            <Button
              size="small"
              loading={actions.busy}
              onClick={() => actions.run((at) => sayAction(at, `its tool printed: ${found.line ?? ''}`))}
            >
              Take this as what was seen
            </Button>
          ) : null}
        </div>
      ) : null}
    </div>
  );
}

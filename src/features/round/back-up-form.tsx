'use client';
import { Button, Input, Radio } from 'antd';
import { useState } from 'react';
import { backUpAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

const WAYS = [
  { value: 'files', label: 'its files' },
  { value: 'in-system', label: 'the system’s own backup' },
  { value: 'image-level', label: 'an image of its data' },
  { value: 'none', label: 'nothing has to be kept' },
] as const;

/** What was taken off the handset before it is erased; kept with its records. */
export function BackUpForm({ actions }: { readonly actions: RoundActions }) {
  const [what, setWhat] = useState<(typeof WAYS)[number]['value'] | null>(null);
  const [note, setNote] = useState('');
  return (
    <>
      <div className={styles.questions}>
        <div role="group" aria-label="What lies off the handset now" className={styles.question}>
          <span>Off the handset now</span>
          <Radio.Group
            value={what}
            onChange={(event) => setWhat(event.target.value as (typeof WAYS)[number]['value'])}
            options={[...WAYS]}
          />
        </div>
        <label>
          <span>{what === 'none' ? 'Why not' : 'Where it lies'}</span>
          <Input
            style={{ width: 360 }}
            maxLength={300}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
      </div>
      <div className={styles.actions}>
        <Button
          type="primary"
          disabled={what === null || (what === 'none' && note.trim() === '')}
          loading={actions.busy}
          onClick={() => actions.run((at) => backUpAction(at, what!, note))}
        >
          Write it down, go on
        </Button>
      </div>
    </>
  );
}

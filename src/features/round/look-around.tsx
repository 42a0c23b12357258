'use client';
import { Button, Input, Radio } from 'antd';
import { useState } from 'react';
import type { Looked, LookedAnswer } from '@/core/rounds/command';
import { LOOKED_ANSWERS } from '@/core/rounds/command';
import { lookAroundAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

const QUESTIONS = [
  ['data', 'Data is there'],
  ['calls', 'Calls and mobile data'],
  ['payments', 'Payments and work apps'],
] as const;

/** What only the person can see. A word counts as weak evidence; what does not work is written down. */
export function LookAround({ actions }: { readonly actions: RoundActions }) {
  const [answers, setAnswers] = useState<Readonly<Record<Looked, LookedAnswer | null>>>({
    data: null,
    calls: null,
    payments: null,
  });
  const [note, setNote] = useState('');
  const open = QUESTIONS.filter(([key]) => answers[key] === null);
  const done = () => {
    const { data, calls, payments } = answers;
    if (data && calls && payments) actions.run((at) => lookAroundAction(at, { data, calls, payments }, note));
  };
  return (
    <>
      <div className={styles.questions}>
        {QUESTIONS.map(([key, words]) => (
          <div key={key} role="group" aria-label={words} className={styles.question}>
            <span>{words}</span>
            <Radio.Group
              value={answers[key]}
              onChange={(event) =>
                setAnswers((known) => ({ ...known, [key]: event.target.value as LookedAnswer }))
              }
              options={LOOKED_ANSWERS.map((value) => ({ value, label: value }))}
            />
          </div>
        ))}
        <label>
          <span>Anything else, for the log</span>
          <Input
            style={{ width: 360 }}
            maxLength={200}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
      </div>
      <div className={styles.actions}>
        <Button type="primary" disabled={open.length > 0} loading={actions.busy} onClick={done}>
          I looked, write it down
        </Button>
      </div>
    </>
  );
}

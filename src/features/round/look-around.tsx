'use client';
import { Button, Input, Radio, Select } from 'antd';
import { useState } from 'react';
import type { RoundView } from '@/contracts/round-view';
import type { AppSeen } from '@/core/rounds/round';
import { LIMITS } from '@/core/limits';
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

const APP_ANSWERS = [
  { value: 'works', label: 'works' },
  { value: 'stopped', label: 'stopped working' },
  { value: 'not tried', label: 'not tried' },
];

/** What only the person can see. A word counts as weak evidence; what does not work is written down. */
export function LookAround({
  apps,
  actions,
}: {
  readonly apps: RoundView['apps'];
  readonly actions: RoundActions;
}) {
  const [answers, setAnswers] = useState<Readonly<Record<Looked, LookedAnswer | null>>>({
    data: null,
    calls: null,
    payments: null,
  });
  const [note, setNote] = useState('');
  const [seen, setSeen] = useState<Readonly<Record<string, AppSeen['how'] | 'not tried'>>>({});
  const [stopped, setStopped] = useState<readonly string[]>([]);
  const open = QUESTIONS.filter(([key]) => answers[key] === null);
  const done = () => {
    const { data, calls, payments } = answers;
    const known = Object.entries(seen).flatMap(([name, how]): AppSeen[] =>
      how === 'not tried' ? [] : [{ name, how }],
    );
    const more = stopped
      .filter((name) => !known.some((one) => one.name === name))
      .map((name): AppSeen => ({ name, how: 'stopped' }));
    if (data && calls && payments)
      actions.run((at) => lookAroundAction(at, { data, calls, payments }, note, [...known, ...more]));
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
        {apps.map(({ name }) => (
          <div key={name} role="group" aria-label={name} className={styles.question}>
            <span>{name}</span>
            <Radio.Group
              value={seen[name] ?? 'not tried'}
              onChange={(event) =>
                setSeen((known) => ({ ...known, [name]: event.target.value as AppSeen['how'] | 'not tried' }))
              }
              options={APP_ANSWERS}
            />
          </div>
        ))}
        <label>
          <span>Other apps that stopped working</span>
          <Select
            mode="tags"
            open={false}
            suffixIcon={null}
            aria-label="Other apps that stopped working"
            placeholder="name, then Enter; kept with its records"
            style={{ width: 360 }}
            maxCount={LIMITS.apps - apps.length}
            value={[...stopped]}
            onChange={(names) =>
              setStopped(names.map((name) => name.trim().slice(0, 80)).filter((name) => name !== ''))
            }
          />
        </label>
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

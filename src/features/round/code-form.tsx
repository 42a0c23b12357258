'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { StandInView } from '@/contracts/stand-in-view';
import { codeAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

/** The code that came by mail: kept with the private values, never shown again. */
export function CodeForm({
  actions,
  mail,
  another = false,
}: {
  readonly actions: RoundActions;
  readonly mail: StandInView['mail'];
  /** It takes the place of one that was refused. */
  readonly another?: boolean;
}) {
  const [code, setCode] = useState('');
  return (
    <div className={styles.actions}>
      <Input.Password
        style={{ width: 260 }}
        aria-label="The code that came by mail"
        value={code}
        onChange={(event) => setCode(event.target.value)}
      />
      <Button
        type={another ? 'default' : 'primary'}
        disabled={code.trim() === ''}
        loading={actions.busy}
        onClick={() => actions.run((at) => codeAction(at, code))}
      >
        {another ? 'Take this code instead' : 'This is the code'}
      </Button>
      <span className="soft small">
        {mail.length === 0 ? 'No mail yet.' : 'Mail has come: look beside the handset.'}
      </span>
    </div>
  );
}

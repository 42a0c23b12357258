'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView } from '@/contracts/round-view';
import { blocking } from '@/core/gates/check';
import { confirmChecksAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

const WORDS = { holds: '✓ holds', fails: '✗ fails', unknown: '? unknown' } as const;

/** The checks before a write, each with its evidence; what may be overridden asks for a reason. */
export function CheckList({ round, actions }: { round: RoundView; actions: RoundActions }) {
  const [reasons, setReasons] = useState<Readonly<Record<string, string>>>({});
  const overrides = Object.entries(reasons)
    .filter(([, reason]) => reason.trim() !== '')
    .map(([checkId, reason]) => ({ checkId, reason }));
  const open = blocking(round.checks, overrides);
  return (
    <>
      <ul className={styles.checks}>
        {round.checks.map((check) => (
          <li key={check.id}>
            <b className={check.verdict === 'fails' ? 'bad' : check.verdict === 'unknown' ? 'wait' : ''}>{WORDS[check.verdict]}</b>
            <span>
              {check.title} <span className="soft small">{check.evidence}</span>
              {check.verdict !== 'holds' && check.overridable ? (
                <Input
                  size="small"
                  placeholder="Looked yourself? Say what you saw, for the log"
                  aria-label={`Reason to go on although: ${check.title}`}
                  value={reasons[check.id] ?? ''}
                  onChange={(event) => setReasons((known) => ({ ...known, [check.id]: event.target.value }))}
                />
              ) : null}
            </span>
          </li>
        ))}
      </ul>
      <div className={styles.actions}>
        <Button
          type="primary"
          disabled={open.length > 0}
          loading={actions.busy}
          onClick={() => actions.run((at) => confirmChecksAction(at, overrides))}
        >
          All of this holds, go on
        </Button>
        {open.length > 0 ? <span className="soft">Held by: {open.map((check) => check.title.toLowerCase()).join('; ')}.</span> : null}
      </div>
    </>
  );
}

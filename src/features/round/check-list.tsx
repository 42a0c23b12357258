'use client';
import { lowerFirst } from '@/core/words/sentence';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView } from '@/contracts/round-view';
import { blocking } from '@/core/gates/check';
import { confirmChecksAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

const WORDS = { holds: '✓ holds', fails: '✗ fails', unknown: '? unknown' } as const;

interface Props {
  readonly round: RoundView;
  readonly actions: RoundActions;
  readonly label: string;
}

/**
 * The checks before a change, each with its evidence; what may be overridden asks for a reason. At a step of
 * its own they let the round on.
 */
export function CheckList({ round, actions, label }: Props) {
  const [reasons, setReasons] = useState<Readonly<Record<string, string>>>(
    Object.fromEntries(round.overrides.map(({ checkId, reason }) => [checkId, reason])),
  );
  const overrides = Object.entries(reasons)
    .filter(([, reason]) => reason.trim() !== '')
    .map(([checkId, reason]) => ({ checkId, reason }));
  const open = blocking(round.checks, overrides);
  const own = round.current !== null && round.steps[round.current]?.key === 'check';
  const unsaid = blocking(round.checks, round.overrides).length > 0;
  // at the step itself only what does not hold is in the way; the rest was read before
  const shown = own ? round.checks : round.checks.filter((check) => check.verdict !== 'holds');
  if (!own && shown.length === 0) return null;
  return (
    <>
      <ul className={styles.checks}>
        {shown.map((check) => (
          <li key={check.id}>
            <b className={check.verdict === 'fails' ? 'bad' : check.verdict === 'unknown' ? 'wait' : ''}>
              {WORDS[check.verdict]}
            </b>
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
      {own || unsaid ? (
        <div className={styles.actions}>
          <Button
            type={own ? 'primary' : 'default'}
            disabled={open.length > 0}
            loading={actions.busy}
            onClick={() => actions.run((at) => confirmChecksAction(at, overrides))}
          >
            {label}
          </Button>
          {open.length > 0 ? (
            <span className="soft">Held by: {open.map((check) => lowerFirst(check.title)).join('; ')}.</span>
          ) : null}
        </div>
      ) : null}
    </>
  );
}

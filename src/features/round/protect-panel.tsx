'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView } from '@/contracts/round-view';
import { formatTime } from '@/ui/format';
import { protectAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';
import { BUDGET_TITLES, budgetWords } from '@/core/words/budget';

const VERDICT = { enough: '✓ enough', short: '✗ short', unknown: '? not known' } as const;

/** What each step erases, whether battery and room last, and the page that helps when nothing else opens. */
export function ProtectPanel({
  round,
  actions,
}: {
  readonly round: RoundView;
  readonly actions: RoundActions;
}) {
  const [reason, setReason] = useState('');
  const short = round.budgets.filter((budget) => budget.verdict === 'short');
  return (
    <>
      <table className="ledger" style={{ marginTop: 8 }}>
        <tbody>
          {round.wipeLedger.map((line) => (
            <tr key={line.step}>
              <td style={{ width: 120 }}>
                <b className="bad">Erased</b>
              </td>
              <td>
                <b>{line.step}</b>
                <br />
                {line.erases.join('; ')}. <span className="soft">Stays: {line.keeps.join(', ')}.</span>
              </td>
            </tr>
          ))}
          {round.wipeLedger.length === 0 ? (
            <tr>
              <td style={{ width: 120 }}>
                <b>Erased</b>
              </td>
              <td>Nothing: no step of this round erases anything.</td>
            </tr>
          ) : null}
          {round.budgets.map((budget) => (
            <tr key={budget.says.code}>
              <td>
                <b
                  className={budget.verdict === 'short' ? 'bad' : budget.verdict === 'unknown' ? 'wait' : ''}
                >
                  {BUDGET_TITLES[budget.says.code]}
                </b>
              </td>
              <td>
                {VERDICT[budget.verdict]}. {budgetWords(budget.says)}
              </td>
            </tr>
          ))}
          <tr>
            <td>
              <b className={round.rescue.at === null ? 'wait' : ''}>Rescue page</b>
            </td>
            <td>
              {round.rescue.at === null
                ? 'Not downloaded yet: one ZIP with the page (the way back, and what to do when it loops) and the files that it names. Keep it off the handset.'
                : round.rescue.stale
                  ? 'The way back has changed since you downloaded it: download it again.'
                  : `✓ downloaded ${formatTime(round.rescue.at)}.`}
            </td>
          </tr>
        </tbody>
      </table>
      <div className={styles.actions}>
        <Button
          type={round.rescue.at === null ? 'primary' : 'default'}
          href={`/api/rounds/${round.id}/rescue`}
          download
        >
          Download the rescue page
        </Button>
        <Button
          type={round.rescue.at === null ? 'default' : 'primary'}
          loading={actions.busy}
          disabled={round.rescue.at === null && reason.trim() === ''}
          onClick={() => actions.run((at) => protectAction(at, reason))}
        >
          It is kept, go on
        </Button>
        {round.rescue.at === null ? (
          <Input
            style={{ width: 260 }}
            placeholder="Or why you do without it"
            aria-label="Why you do without a rescue page"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        ) : null}
        {short.length > 0 ? (
          <span className="bad">
            {short.map((budget) => BUDGET_TITLES[budget.says.code]).join(' and ')} will not last.
          </span>
        ) : null}
      </div>
    </>
  );
}

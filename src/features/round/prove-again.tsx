'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { ProveAgainView, RoundView } from '@/contracts/round-view';
import { proveAgainAction, proveAgainByLinkAction } from './actions';
import { Commands } from './by-hand';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly actions: RoundActions;
}

/** Root that is there after one more restart is there to stay: over the link, or shown by hand. */
export function ProveAgain({ round, actions }: Props) {
  if (!round.proveAgain) return null;
  const linked = round.handset.link === 'stand-in';
  return (
    <details className={styles.again}>
      <summary>Restart it once more and prove that root stays</summary>
      {linked ? (
        <div className={styles.actions}>
          <Button loading={actions.busy} onClick={() => actions.run(proveAgainByLinkAction)}>
            Restart it and prove root again
          </Button>
        </div>
      ) : (
        <ByHandAgain view={round.proveAgain} actions={actions} />
      )}
    </details>
  );
}

function ByHandAgain({ view, actions }: { readonly view: ProveAgainView; readonly actions: RoundActions }) {
  const [text, setText] = useState('');
  return (
    <>
      <p className="small">
        Restart the handset, wait until it is up, then run these and paste what they print.
      </p>
      <Commands commands={view.commands} actions={null} />
      <label>
        <span className="soft small">{view.shows.join(' ')}</span>
        <Input.TextArea
          aria-label="What it printed after the restart"
          rows={3}
          className="mono"
          spellCheck={false}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <div className={styles.actions}>
        <Button
          disabled={text.trim() === ''}
          loading={actions.busy}
          onClick={() => actions.run((at) => proveAgainAction(at, text))}
        >
          Take it as proof
        </Button>
      </div>
    </>
  );
}

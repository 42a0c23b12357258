'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RoundView } from '@/contracts/round-view';
import type { UnlockToken } from '@/core/unlocking/token';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { useCopy } from '@/ui/use-copy';
import { tokenAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

/** Reads the token where it is printed, joins it, and shows it to be copied; it is on no other page. */
export function TokenPanel({
  round,
  actions,
}: {
  readonly round: RoundView;
  readonly actions: RoundActions;
}) {
  const { act, busy, error, dismiss } = useAct();
  const [text, setText] = useState('');
  const copy = useCopy();
  const [read, setRead] = useState<UnlockToken | null>(null);
  const isLinked = round.handset.link === 'stand-in';
  const readIt = (printed: string | null) =>
    act(
      () => tokenAction({ ...actions.at, text: printed }),
      (found) => {
        setRead(found);
        setText('');
      },
    );
  return (
    <section aria-label="The token">
      <h3>1. The token</h3>
      {read ? (
        <>
          <p className="mono" aria-label="Token, joined" style={{ overflowWrap: 'anywhere' }}>
            {read.token}
          </p>
          <p className="small">
            {read.token.length} characters, joined from {read.lines} {read.lines === 1 ? 'line' : 'lines'}. It
            is private: paste it on its maker’s own page and nowhere else.{' '}
            <Button size="small" onClick={() => copy(read.token)}>
              Copy it
            </Button>{' '}
            <Button size="small" type="text" onClick={() => setRead(null)}>
              Hide it
            </Button>
          </p>
        </>
      ) : (
        <>
          {isLinked ? (
            <div className={styles.actions}>
              <Button loading={busy} onClick={() => readIt(null)}>
                Read it in the bootloader
              </Button>
              <span className="soft small">The handset stands in its bootloader now.</span>
            </div>
          ) : (
            <>
              <Input.TextArea
                aria-label="What the bootloader printed"
                placeholder="Paste what the bootloader printed: all lines, prefixes too"
                autoSize={{ minRows: 3, maxRows: 8 }}
                className="mono"
                value={text}
                onChange={(event) => setText(event.target.value)}
              />
              <div className={styles.actions}>
                <Button loading={busy} disabled={text.trim() === ''} onClick={() => readIt(text)}>
                  Join and check it
                </Button>
              </div>
            </>
          )}
        </>
      )}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <h3>2. The maker’s page</h3>
      <MakersPage />
      <h3>3. The code</h3>
    </section>
  );
}

function MakersPage() {
  return (
    <table className="ledger">
      <tbody>
        <tr>
          <td>
            <b>Do</b>
          </td>
          <td>
            Open the page yourself, by the address on the maker’s own site. Give the token and an address for
            the answer.
          </td>
        </tr>
        <tr>
          <td>
            <b>Skip</b>
          </td>
          <td>Newsletters, surveys, apps to install, anything that is not about this handset’s code.</td>
        </tr>
        <tr>
          <td>
            <b className="bad">Never</b>
          </td>
          <td>
            Pay, give a password, let somebody else “help”, or agree to something you have not read: warranty
            may end here.
          </td>
        </tr>
      </tbody>
    </table>
  );
}

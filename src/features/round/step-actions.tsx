'use client';
import { Button } from 'antd';
import Link from 'next/link';
import type { RoundView, StepView } from '@/contracts/round-view';
import { useLive } from '@/ui/frame/live';
import { closeAction, enterBootloaderAction, proveAction, readFactsAction, restartAction, sendToBootloaderAction, writeAction } from './actions';
import { CheckList } from './check-list';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly step: StepView;
  readonly actions: RoundActions;
  readonly openHand: () => void;
}

/** The one main button of a step, and what can be done instead. */
export function StepActions({ round, step, actions, openHand }: Props) {
  const { standIn } = useLive();
  const linked = round.handset.link === 'stand-in';
  const { run, busy } = actions;
  const running = step.state === 'running';
  const hand = linked ? <Button onClick={openHand}>I do it by hand</Button> : null;
  const main = (label: string, onClick: () => void) =>
    linked ? (
      <Button type="primary" loading={busy || running} onClick={onClick}>
        {label}
      </Button>
    ) : null;
  const stockBack = round.stock && (step.state === 'failed' || step.state === 'interrupted') && step.key !== 'prove-root' ? linked : false;
  switch (step.key) {
    case 'read-facts':
      return (
        <div className={styles.actions}>
          {main('Read it over the link', () => run(readFactsAction))}
          {hand}
        </div>
      );
    case 'find-package':
    case 'take-image':
      return (
        <div className={styles.actions}>
          <Link href="/firmware">
            <Button type="primary">{step.key === 'find-package' ? 'Open its package' : `Take out ${round.partition}`}</Button>
          </Link>
        </div>
      );
    case 'patch-image':
      return (
        <div className={styles.actions}>
          <Link href={round.stock ? `/images/${round.stock.sha256}` : '/firmware'}>
            <Button type="primary">Patch {round.partition}</Button>
          </Link>
        </div>
      );
    case 'check':
      return <CheckList round={round} actions={actions} />;
    case 'enter-bootloader': {
      const there = standIn?.state.mode === 'bootloader';
      return (
        <div className={styles.actions}>
          {main(there ? 'Read it in the bootloader' : 'I see the bootloader, read it', () => run(enterBootloaderAction))}
          {linked && standIn?.state.mode === 'system' ? (
            <Button loading={busy} onClick={() => run(sendToBootloaderAction)}>
              Restart it into the bootloader
            </Button>
          ) : null}
          {hand}
        </div>
      );
    }
    case 'write-image':
      return (
        <div className={styles.actions}>
          {main(step.state === 'waiting' ? `Write to ${target(round)}` : `Write to ${target(round)} again`, () =>
            run((at) => writeAction(at, 'patched')),
          )}
          {stockBack ? (
            <Button loading={busy} onClick={() => run((at) => writeAction(at, 'stock'))}>
              Write the stock image back instead
            </Button>
          ) : null}
          {hand}
        </div>
      );
    case 'restart':
      return (
        <div className={styles.actions}>
          {stockBack ? (
            <Button type="primary" loading={busy} onClick={() => run((at) => writeAction(at, 'stock'))}>
              Write the stock image back
            </Button>
          ) : null}
          {linked ? (
            <Button type={stockBack ? 'default' : 'primary'} loading={busy || running} onClick={() => run(restartAction)}>
              {step.state === 'failed' ? 'Start the system again' : 'Start the system'}
            </Button>
          ) : null}
          {hand}
        </div>
      );
    case 'prove-root':
      return (
        <div className={styles.actions}>
          {main(step.state === 'failed' ? 'Ask for root again' : 'Prove root', () => run(proveAction))}
          {running ? <b className="wait">Look at the handset: it asks. Volume up allows it.</b> : null}
          {hand}
        </div>
      );
    case 'close':
      return (
        <div className={styles.actions}>
          <Button type="primary" loading={busy} onClick={() => run(closeAction)}>
            Close the round
          </Button>
        </div>
      );
  }
}

const target = (round: RoundView) => (round.handset.slot ? `slot ${round.handset.slot}` : round.partition);

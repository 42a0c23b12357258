'use client';
import { Button } from 'antd';
import { Link } from '@/ui/link';
import type { RoundView, RoundStepView } from '@/contracts/round-view';
import { ASKS_FOR_ROOT, DEEDS } from '@/core/steps/deeds';
import { useStandIn } from '@/ui/frame/live';
import { closeAction, replanAction, runStepAction, sayAction, sendAction, stockBackAction } from './actions';
import { BackUpForm } from './back-up-form';
import { CheckList } from './check-list';
import { CodeForm } from './code-form';
import { LookAround } from './look-around';
import { ProtectPanel } from './protect-panel';
import styles from './round.module.css';
import { SideloadForm } from './sideload-form';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
  readonly openHand: () => void;
}

function labelOf(round: RoundView, step: RoundStepView, inBootloader: boolean): string {
  if (step.key === 'bootloader')
    return inBootloader ? 'Read it in the bootloader' : 'I see the bootloader, read it';
  const writes = step.writes && step.button === null;
  const target =
    round.handset.slot && step.key !== 'write-build-both' ? `slot ${step.slot}` : round.partition;
  const words = writes ? `Write to ${target}` : (step.button ?? 'Do it');
  return step.state === 'failed' || step.state === 'interrupted' ? `${words} again` : words;
}

/** The one main button of a step, and what can be done instead. */
export function StepActions({ round, step, actions, openHand }: Props) {
  const standIn = useStandIn(round.handset.profile);
  const linked = round.handset.link === 'stand-in' && round.handset.profile !== null;
  const { run, busy } = actions;
  const running = step.state === 'running';
  const { room } = DEEDS[step.key];
  if (step.key === 'check')
    return <CheckList round={round} actions={actions} label="All of this holds, go on" />;
  if (step.key === 'back-up') return <BackUpForm actions={actions} />;
  if (step.key === 'guard-off')
    return (
      <div className={styles.actions}>
        <Button
          type="primary"
          loading={busy}
          onClick={() => run((at) => sayAction(at, 'no account is listed, theft guard is off'))}
        >
          It is off, no account is listed
        </Button>
      </div>
    );
  if (step.key === 'protect') return <ProtectPanel round={round} actions={actions} />;
  if (step.key === 'look-around') return <LookAround actions={actions} />;
  if (step.key === 'ask-code') return <CodeForm actions={actions} mail={standIn?.mail ?? []} />;
  if (step.key === 'sideload') return <SideloadForm round={round} step={step} actions={actions} />;
  if (room !== undefined)
    return (
      <div className={styles.actions}>
        <Link
          href={
            room === 'images' && round.stock && step.key === 'patch'
              ? `/images/${round.stock.sha256}`
              : `/${room}`
          }
        >
          <Button type="primary">{step.button}</Button>
        </Link>
      </div>
    );
  if (step.key === 'close')
    return (
      <div className={styles.actions}>
        <Button type="primary" loading={busy} onClick={() => run(closeAction)}>
          Close the round
        </Button>
      </div>
    );
  const gated = round.checks.length > 0;
  const mode = standIn?.state.mode;
  const sends =
    (step.key === 'bootloader' || step.key === 'recovery') &&
    linked &&
    mode !== step.key &&
    mode !== 'off' &&
    mode !== 'looping';
  const rescue =
    linked &&
    round.stock !== null &&
    (step.state === 'failed' || step.state === 'interrupted') &&
    step.key !== 'prove-root';
  return (
    <>
      {gated ? <CheckList round={round} actions={actions} label="Keep these reasons" /> : null}
      <div className={styles.actions}>
        {rescue && step.starts ? (
          <Button type="primary" loading={busy} onClick={() => run(stockBackAction)}>
            Write the stock image back
          </Button>
        ) : null}
        {step.byLink ? null : (
          <Button type="primary" loading={busy} onClick={() => run((at) => sayAction(at, step.text.see))}>
            {step.button ?? 'It is done'}
          </Button>
        )}
        {linked && step.byLink ? (
          <Button
            type={rescue && step.starts ? 'default' : 'primary'}
            danger={step.erases}
            loading={busy || running}
            onClick={() => run(runStepAction)}
          >
            {labelOf(round, step, mode === 'bootloader')}
          </Button>
        ) : null}
        {sends ? (
          <Button loading={busy} onClick={() => run(sendAction)}>
            Restart it into the {step.key}
          </Button>
        ) : null}
        {rescue && !step.starts ? (
          <Button loading={busy} onClick={() => run(stockBackAction)}>
            Write the stock image back instead
          </Button>
        ) : null}
        {running && ASKS_FOR_ROOT.includes(step.key) ? (
          <b className="wait">Look at the handset: it asks. Volume up allows it.</b>
        ) : null}
        {linked && step.byLink ? <Button onClick={openHand}>I do it by hand</Button> : null}
        {step.state === 'failed' ? (
          <Button type="text" loading={busy} onClick={() => run(replanAction)}>
            Plan the way on anew
          </Button>
        ) : null}
      </div>
    </>
  );
}

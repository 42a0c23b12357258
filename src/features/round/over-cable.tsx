'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState, useSyncExternalStore } from 'react';
import type { PageCable } from '@/cable/page-cable';
import {
  browserUsb,
  connectCable,
  noCable,
  onPageCable,
  pageCable,
  pageName,
  releaseCable,
} from '@/cable/page-cable';
import type { RoundStepView, RoundView } from '@/contracts/round-view';
import type { ErrorData } from '@/core/errors';
import { EternoError, toEternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { agreeToCableAction, cableReadyAction, runStepAction, sendAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
  /** What the button says that does the step. */
  readonly label: string;
}

/** Whether this browser has USB for pages; null until it is known. */
const useHasUsb = () =>
  useSyncExternalStore(
    () => () => undefined,
    () => browserUsb() !== null,
    () => null,
  );

const useHeld = () => useSyncExternalStore(onPageCable, pageCable, noCable);

/** Whether the cable does the step to do now: the answer by hand is the other way then. */
export function useCableLeads({ cable, handset }: RoundView): boolean {
  const held = useHeld();
  return cable?.does === 'the step' && held.handsetId === handset.id;
}

/** The step over the cable that this page of the browser holds, for a handset that is worked on by hand. */
export function OverCable(props: Props) {
  const { round } = props;
  const has = useHasUsb();
  if (round.cable === null || round.cable.on === null || round.cable.does === null || has === null)
    return null;
  return (
    <section aria-label="Over this computer’s cable" className={styles.cable}>
      {has ? round.cable.agreed ? <Line {...props} /> : <Agree {...props} /> : <NoUsb />}
    </section>
  );
}

const NoUsb = () => (
  <p className="small soft">
    This browser gives pages no way to a USB cable. Open Eterno in one that does, or go on by hand below.
  </p>
);

function Agree({ round: { handset }, actions: { run, busy } }: Props) {
  return (
    <>
      <p>
        <b>Eterno can do this over the cable of this computer.</b> Only for a handset of your own. It was not
        tried with every maker; a write that is cut short, by the cable, the battery or by closing this page,
        leaves the partition unknown until it is written again.
      </p>
      <Button disabled={busy} onClick={() => run(() => agreeToCableAction(handset.id))}>
        {handset.name} is mine: let Eterno use its cable
      </Button>
    </>
  );
}

/** Connected or not, and the button for what is next. */
function Line(props: Props) {
  const held = useHeld();
  return held.handsetId === props.round.handset.id ? (
    <Held {...props} held={held} />
  ) : (
    <Connect {...props} ended={held.error} />
  );
}

function Connect({ round: { handset, cable }, ended }: Props & { readonly ended: ErrorData | null }) {
  const router = useRouter();
  const [connecting, setConnecting] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const connect = async () => {
    setConnecting(true);
    setError(null);
    try {
      await connectCable(handset.id, async () => {
        const ready = await cableReadyAction(handset.id, pageName());
        if (!ready.ok) throw EternoError.fromData(ready.error);
      });
    } catch (thrown) {
      const failed = toEternoError(thrown);
      // choosing none is no fault
      setError(failed.code === 'cancelled' ? null : failed.toData());
    }
    setConnecting(false);
    router.refresh();
  };
  const shown = error ?? ended;
  return (
    <>
      <div className={styles.actions}>
        <Button
          type={cable?.does === 'the step' ? 'primary' : 'default'}
          disabled={connecting}
          onClick={() => void connect()}
        >
          Connect its cable
        </Button>
      </div>
      <p className="small soft">
        Its bootloader has to show, and the cable has to be in. The browser asks which one it is.
      </p>
      {shown ? <ErrorNote error={shown} onDismiss={() => setError(null)} /> : null}
    </>
  );
}

function Held({ round: { cable }, step, actions, label, held }: Props & { readonly held: PageCable }) {
  const restarts = cable?.does === 'the restart';
  // it was sent off: what it comes up to is the person's word
  const hasLeft = restarts && held.device === null;
  return (
    <>
      <div className={styles.actions}>
        {hasLeft ? null : (
          <Button
            type="primary"
            danger={step.erases}
            disabled={actions.busy || step.state === 'running'}
            onClick={() => actions.run(restarts ? sendAction : runStepAction)}
          >
            {restarts ? 'Restart it over the cable' : `${label} over the cable`}
          </Button>
        )}
        <Button type="text" disabled={held.working} onClick={releaseCable}>
          Give the cable back
        </Button>
      </div>
      <p className="small soft">{whereItIs(held, hasLeft)}</p>
      {step.state === 'failed' || step.state === 'interrupted' ? (
        <p className="small">
          A send that broke off can leave its bootloader waiting for the rest. If it does not answer now, hold
          its keys until it restarts its bootloader, then do the step again.
        </p>
      ) : null}
      {step.state === 'waiting' && step.evidence.length > 0 ? (
        <p className={styles.hold} role="status">
          It was sent. What it came up to only you see: say it below.
        </p>
      ) : null}
    </>
  );
}

function whereItIs({ device }: PageCable, hasLeft: boolean): string {
  if (device !== null) return `On the cable: ${device}. Its serial is compared before anything is sent.`;
  return hasLeft
    ? 'It left the cable. What it comes up to only you see: say it below.'
    : 'It is off the cable now. It is found again when it shows its bootloader.';
}

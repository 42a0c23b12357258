'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState, useSyncExternalStore } from 'react';
import { browserUsb, connectCable, noCable, onPageCable, pageCable, pageName, releaseCable } from '@/cable/page-cable';
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

/** The step over the cable that this page of the browser holds, for a handset that is worked on by hand. */
export function OverCable(props: Props) {
  const { round } = props;
  const has = useHasUsb();
  if (round.cable === null || round.cable.on === null || round.cable.does === null || has === null) return null;
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
        <b>Eterno can do this over the cable of this computer.</b> Only for a handset of your own. It was not tried
        with every maker; a write that is cut short, by the cable, the battery or by closing this page, leaves the
        partition unknown until it is written again.
      </p>
      <Button disabled={busy} onClick={() => run(() => agreeToCableAction(handset.id))}>
        {handset.name} is mine: let Eterno use its cable
      </Button>
    </>
  );
}

/** Connected or not, and the button for what is next. */
function Line({ round, step, actions, label }: Props) {
  const { handset, cable } = round;
  const router = useRouter();
  const held = useSyncExternalStore(onPageCable, pageCable, noCable);
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
      const { code, ...rest } = toEternoError(thrown).toData();
      // choosing none is no fault
      setError(code === 'cancelled' ? null : { code, ...rest });
    }
    setConnecting(false);
    router.refresh();
  };
  const isHeld = held.handsetId === handset.id;
  const shown = error ?? held.error;
  return (
    <>
      <div className={styles.actions}>
        {isHeld ? (
          <Button
            type="primary"
            danger={step.erases}
            disabled={actions.busy || step.state === 'running'}
            onClick={() => actions.run(cable?.does === 'the restart' ? sendAction : runStepAction)}
          >
            {cable?.does === 'the restart' ? 'Restart it over the cable' : `${label} over the cable`}
          </Button>
        ) : (
          <Button type="primary" disabled={connecting} onClick={() => void connect()}>
            Connect its cable
          </Button>
        )}
        {isHeld ? (
          <Button type="text" disabled={held.working} onClick={releaseCable}>
            Give the cable back
          </Button>
        ) : null}
      </div>
      <p className="small soft">
        {isHeld
          ? held.device === null
            ? 'It is off the cable now. It is found again when it shows its bootloader.'
            : `On the cable: ${held.device}. Its serial is compared before anything is sent.`
          : 'Its bootloader has to show, and the cable has to be in. The browser asks which one it is.'}
      </p>
      {step.state === 'waiting' && step.evidence.length > 0 ? (
        <p className={styles.hold} role="status">
          It was sent. What it came up to only you see: say it below.
        </p>
      ) : null}
      {shown ? <ErrorNote error={shown} onDismiss={() => setError(null)} /> : null}
    </>
  );
}

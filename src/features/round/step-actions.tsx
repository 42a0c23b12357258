'use client';
import { Button } from 'antd';
import type { ComponentType } from 'react';
import { Link } from '@/ui/link';
import type { RoundView, RoundStepView } from '@/contracts/round-view';
import { ASKS_FOR_ROOT, DEEDS } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-key';
import { useStandIn } from '@/ui/frame/live';
import { planStockBackAction, replanAction, runStepAction, sendAction, stockBackAction } from './actions';
import { BackUpForm } from './back-up-form';
import { BuildPackageForm } from './build-package-form';
import { CheckList } from './check-list';
import { CodeForm } from './code-form';
import { LookAround } from './look-around';
import { OverCable } from './over-cable';
import { ProtectPanel } from './protect-panel';
import styles from './round.module.css';
import { SideloadForm } from './sideload-form';
import { TokenPanel } from './token-panel';
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
  return isBroken(step) ? `${words} again` : words;
}

type FormProps = Omit<Props, 'openHand'>;

function Mailed({ round, actions }: FormProps) {
  return (
    <>
      <TokenPanel round={round} actions={actions} />
      <CodeForm actions={actions} mail={useStandIn(round.handset.profile)?.mail ?? []} />
    </>
  );
}

/** A code that was refused is replaced where it was refused: nothing before it has to be done again. */
function AnotherCode({ round, step, actions }: FormProps) {
  const mail = useStandIn(round.handset.profile)?.mail ?? [];
  if (step.key !== 'unlock' || !isBroken(step) || !round.steps.some(({ key }) => key === 'ask-code'))
    return null;
  return (
    <>
      <p className="small" style={{ marginTop: 10 }}>
        Was it the wrong code? Give another: nothing before it has to be done again.
      </p>
      <CodeForm actions={actions} mail={mail} another />
    </>
  );
}

/** What stands in place of the buttons at a step that is done here, or asks for more than a word. */
const OWN_FORMS: Readonly<Partial<Record<StepKey, ComponentType<FormProps>>>> = {
  check: ({ round, actions }) => (
    <CheckList round={round} actions={actions} label="All of this holds, go on" />
  ),
  'back-up': ({ actions }) => <BackUpForm actions={actions} />,
  protect: ({ round, actions }) => <ProtectPanel round={round} actions={actions} />,
  'look-around': ({ round, actions }) => <LookAround apps={round.apps} actions={actions} />,
  'ask-code': Mailed,
  sideload: SideloadForm,
  close: () => null,
};

/** The one main button of a step, and what can be done instead. */
export function StepActions(props: Props) {
  const { round, step } = props;
  const { room } = DEEDS[step.key];
  const Form = OWN_FORMS[step.key];
  if (Form) return <Form {...props} />;
  if (room === undefined) return <Deeds {...props} />;
  const image = room === 'images' ? round.baseOfStep : null;
  return (
    <div className={styles.actions}>
      <Link href={image ? `/images/${image.sha256}` : `/${room}`}>
        <Button type="primary">{step.button}</Button>
      </Link>
    </div>
  );
}

const isBroken = ({ state }: RoundStepView) => state === 'failed' || state === 'interrupted';

/** Modes in which a handset answers no command. */
const SILENT: readonly (string | undefined)[] = ['off', 'looping'];

const isLinked = ({ handset }: RoundView) => handset.link === 'stand-in' && handset.profile !== null;

/** Whether the stock image can be put back in place of a step that went wrong. */
const canRescue = (round: RoundView, step: RoundStepView) =>
  isLinked(round) && round.stock !== null && isBroken(step) && step.key !== 'prove-root';

/** The button that does the step, or says that it was done. */
function Main({ round, step, actions }: FormProps) {
  const { run, busy } = actions;
  const mode = useStandIn(round.handset.profile)?.state.mode;
  // what the person does is answered for below
  if (!step.byLink || !isLinked(round)) return null;
  if (round.passes && !round.passes.held)
    return <BuildPackageForm round={round} step={step} needs={round.passes} actions={actions} />;
  return (
    <Button
      type={canRescue(round, step) && step.starts ? 'default' : 'primary'}
      danger={step.erases}
      loading={busy || step.state === 'running'}
      onClick={() => run(runStepAction)}
    >
      {labelOf(round, step, mode === 'bootloader')}
    </Button>
  );
}

/** Brings the handset into the mode of the step, where it answers. */
function Send({ round, step, actions: { run, busy } }: FormProps) {
  const mode = useStandIn(round.handset.profile)?.state.mode;
  const isMode = step.key === 'bootloader' || step.key === 'recovery';
  if (!isMode || !isLinked(round) || mode === step.key || SILENT.includes(mode)) return null;
  return (
    <Button loading={busy} onClick={() => run(sendAction)}>
      Restart it into the {step.key}
    </Button>
  );
}

function StockBack({ actions: { run, busy }, first }: Pick<Props, 'actions'> & { readonly first: boolean }) {
  return (
    <Button type={first ? 'primary' : 'default'} loading={busy} onClick={() => run(stockBackAction)}>
      {first ? 'Write the stock image back' : 'Write the stock image back instead'}
    </Button>
  );
}

const PlanAnew = ({ actions: { run, busy } }: Pick<Props, 'actions'>) => (
  <Button type="text" loading={busy} onClick={() => run(replanAction)}>
    Plan the way on anew
  </Button>
);

const FindOut = ({ round }: Pick<Props, 'round'>) => (
  <Link href={`/rescue?handset=${round.handset.id}`}>Find out what is wrong</Link>
);

/** By hand, after a step that went otherwise: it can be done once more below, or one of these. */
function WaysOn({ round, step, actions }: FormProps) {
  return (
    <div className={styles.actions}>
      <span>Do it once more and answer below, or:</span>
      <Button
        type={step.starts ? 'primary' : 'default'}
        loading={actions.busy}
        onClick={() => actions.run(planStockBackAction)}
      >
        Put the stock image back
      </Button>
      <PlanAnew actions={actions} />
      <FindOut round={round} />
    </div>
  );
}

function AfterFailure({ round, step, actions }: FormProps) {
  return (
    <>
      {step.state === 'failed' ? <PlanAnew actions={actions} /> : null}
      <FindOut round={round} />
    </>
  );
}

/** What is done on the handset, over the link or by hand, and the ways out where it failed. */
function Deeds(props: Props) {
  const { round, step, actions, openHand } = props;
  const rescue = canRescue(round, step);
  return (
    <>
      {round.checks.length > 0 ? (
        <CheckList round={round} actions={actions} label="Keep these reasons" />
      ) : null}
      <div className={styles.actions}>
        {rescue && step.starts ? <StockBack actions={actions} first /> : null}
        <Main {...props} />
        <Send {...props} />
        {rescue && !step.starts ? <StockBack actions={actions} first={false} /> : null}
        {step.state === 'running' && ASKS_FOR_ROOT.includes(step.key) ? (
          <b className="wait">Look at the handset: it asks. Volume up allows it.</b>
        ) : null}
        {isLinked(round) && step.byLink ? <Button onClick={openHand}>I do it by hand</Button> : null}
        {isLinked(round) && isBroken(step) ? <AfterFailure {...props} /> : null}
      </div>
      <OverCable round={round} step={step} actions={actions} label={labelOf(round, step, false)} />
      <AnotherCode round={round} step={step} actions={actions} />
      {!isLinked(round) && isBroken(step) ? <WaysOn round={round} step={step} actions={actions} /> : null}
    </>
  );
}

'use client';
import { upperFirst } from '@/core/words/sentence';
import { Button, Progress } from 'antd';
import type { ImageBrief, RoundView, RoundStepView } from '@/contracts/round-view';
import type { StepKey } from '@/core/steps/step-key';
import { EvidenceList } from '@/ui/evidence-list';
import { formatBytes } from '@/ui/format';
import { StopButton } from '@/ui/stop-button';
import { useJob } from '@/ui/frame/live';
import { HashText } from '@/ui/hash-text';
import { saidToLoopAction } from './actions';
import { AskedFacts } from './asked-facts';
import { ByHand } from './by-hand';
import { ComingBack } from './coming-back';
import styles from './round.module.css';
import { ChangedForNow } from './changed-for-now';
import { CloseForm } from './close-form';
import { Hint, HintsOfStep } from './hints';
import { useCableLeads } from './over-cable';
import { ProveAgain } from './prove-again';
import { SignOff } from './sign-off-table';
import { StepActions } from './step-actions';
import { KeysOfStep, WordsOfStep } from './step-ways';
import type { RoundActions } from './use-round-actions';
import { WatchLine } from './watch-line';

interface StepProps {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
  readonly hand: boolean;
  readonly openHand: () => void;
  readonly now: number;
}

/** Steps whose time nobody watches. */
const UNTIMED: readonly StepKey[] = ['read-facts', 'close', 'look-around'];

/** The one step to do now: what to do, the button, what will be seen, and what not to do. */
export function CurrentStep({ round, step, actions, hand, openHand, now }: StepProps) {
  const number = round.steps.indexOf(step) + 1;
  const cableLeads = useCableLeads(round);
  const isTimed = step.mode !== 'computer' && !UNTIMED.includes(step.key);
  return (
    <HintsOfStep key={step.id} actions={actions}>
      <section aria-label={step.title}>
        <h1>
          Step {number} of {round.steps.length}: {step.title}
        </h1>
        {step.isNew ? <b className={styles.fresh}>New since the last round of this kind</b> : null}
        <StepTrouble step={step} />
        <Hint asks>
          <p style={{ marginTop: 8 }}>{step.text.todo}</p>
        </Hint>
        <Cautions step={step} />
        <Hint>
          <KeysOfStep round={round} step={step} />
        </Hint>
        {round.comingBack ? (
          <ComingBack
            back={round.comingBack}
            byHand={round.handset.link === 'hand' || hand}
            actions={actions}
          />
        ) : null}
        <StepActions round={round} step={step} actions={actions} openHand={openHand} />
        <RunningJob jobId={round.runningJob} />
        {isTimed ? <WatchLine step={step} now={now} /> : null}
        {round.handset.link === 'stand-in' ? <Loops step={step} actions={actions} /> : null}
        <AskedFacts round={round} />
        {hand && round.hand && !isUnderWay(round, step) ? (
          <ByHand
            key={`${step.id} ${step.state}`}
            second={cableLeads}
            hand={round.hand}
            asks={round.asks}
            step={step}
            actions={actions}
          />
        ) : null}
        <Hint>
          <Prompts step={step} />
          <StepTexts step={step} />
        </Hint>
        <WordsOfStep key={`words ${step.id}`} round={round} step={step} />
        <ChangedForNow round={round} step={step} actions={actions} />
        {(step.stage === 'Flash' || step.key === 'check') && (round.image ?? round.stock) ? (
          <Images round={round} />
        ) : null}
        {step.key === 'close' ? (
          <>
            <SignOff round={round} actions={actions} />
            <ProveAgain round={round} actions={actions} />
            <CloseForm round={round} actions={actions} />
          </>
        ) : null}
      </section>
    </HintsOfStep>
  );
}

/** What will be seen, what not to do, and what if it is otherwise. */
function StepTexts({ step }: { step: RoundStepView }) {
  return (
    <div className={styles.cols}>
      <div>
        <h3>You will see</h3>
        <p>{step.text.see}</p>
      </div>
      <div>
        <h3>Don’t</h3>
        <p>{step.text.dont}</p>
      </div>
      <div>
        <h3>If you see something else</h3>
        <p>{step.text.otherwise}</p>
      </div>
      <div>
        <h3>If you stop after this step</h3>
        <p>{step.ifItEndsHere}</p>
      </div>
    </div>
  );
}

/** Over the cable: what it came to is not said yet. */
const isUnderWay = ({ handset }: RoundView, { state }: RoundStepView) =>
  handset.link === 'hand' && state === 'running';

/** What is plainly said before the handset is changed. */
function Cautions({ step }: { step: RoundStepView }) {
  return (
    <>
      {step.erases ? (
        <div className={styles.danger}>
          <b>This erases everything on the handset</b>: apps, files, accounts, and the trust of this computer.
          A backup that lies on it goes too.
        </div>
      ) : null}
      {step.writes || step.erases ? (
        <div className={styles.hold}>
          <span>
            <b>This {step.writes ? 'writes to' : 'changes'} the handset.</b> Both on mains or well charged; a
            write that is cut short leaves the partition unknown. Only your own device, and only if its maker,
            carrier, employer and local law allow it. Warranty, payments and work apps may end with root.
          </span>
        </div>
      ) : null}
    </>
  );
}

/** While a start is waited for: the person may see sooner than Eterno that it does not come up. */
function Loops({ step, actions }: Pick<StepProps, 'step' | 'actions'>) {
  if (!step.starts || step.state !== 'running') return null;
  return (
    <Button type="text" size="small" style={{ marginLeft: -7 }} onClick={() => actions.run(saidToLoopAction)}>
      It starts over and over
    </Button>
  );
}

function StepTrouble({ step }: { step: RoundStepView }) {
  if (step.state !== 'failed' && step.state !== 'interrupted') return null;
  return (
    <div className={styles.hold} role="status">
      <span>
        <b>{step.state === 'interrupted' ? 'This step was interrupted.' : 'This step did not succeed.'}</b>
        <EvidenceList evidence={step.evidence} />
      </span>
    </div>
  );
}

function Prompts({ step: { prompts } }: { step: RoundStepView }) {
  if (prompts.length === 0) return null;
  return (
    <table className="ledger" style={{ marginTop: 12 }}>
      <thead>
        <tr>
          <th>The handset asks</th>
          <th>Answer</th>
          <th>The wrong answer costs</th>
        </tr>
      </thead>
      <tbody>
        {prompts.map((prompt) => (
          <tr key={prompt.asks}>
            <td>“{prompt.asks}”</td>
            <td>
              <b>{prompt.answer}</b>
            </td>
            <td className="soft">{prompt.wrong}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const WRITING: Readonly<Record<string, string>> = {
  write: 'The handset is writing, do not touch the cable',
  pieces:
    'The handset is writing piece by piece, do not touch the cable. A stop comes after the piece of now, and leaves the partition half written',
};

function RunningJob({ jobId }: { jobId: string | null }) {
  const job = useJob(jobId);
  if (!job || job.state !== 'running') return null;
  const percent = job.totalBytes > 0 ? Math.round((100 * job.doneBytes) / job.totalBytes) : 0;
  const sending = job.phase === 'send' || Object.hasOwn(WRITING, job.phase);
  return (
    <div aria-live="polite" style={{ margin: '8px 0' }}>
      <div style={{ display: 'flex', justifyContent: 'space-between', gap: 12 }}>
        <span>{WRITING[job.phase] ?? upperFirst(job.phase)}</span>
        <span className="soft">
          {sending ? `${formatBytes(job.doneBytes)} of ${formatBytes(job.totalBytes)}` : ''}
        </span>
      </div>
      <Progress percent={percent} showInfo={false} size="small" aria-label={`${job.title}: ${job.phase}`} />
      <StopButton jobId={job.id} />
    </div>
  );
}

function ImageRow({ name, image }: { name: string; image: ImageBrief | null }) {
  return (
    <tr>
      <td className="soft">{name}</td>
      <td>
        {image ? (
          <>
            {image.partition} <span className="mono">{image.build}</span> {image.kit ? `+ ${image.kit}` : ''}
          </>
        ) : (
          <b className="bad">not in the vault</b>
        )}
      </td>
      <td style={{ textAlign: 'right' }}>{image ? <HashText hash={image.sha256} /> : null}</td>
    </tr>
  );
}

function Images({ round }: { round: RoundView }) {
  return (
    <table className="ledger" style={{ marginTop: 12 }}>
      <tbody>
        {round.image ? <ImageRow name="Goes on" image={round.image} /> : null}
        <ImageRow name="Way back" image={round.stock} />
      </tbody>
    </table>
  );
}

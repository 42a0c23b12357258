'use client';
import { Button, Popconfirm, Progress } from 'antd';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import type { ImageSummary } from '@/contracts/image-view';
import type { ImageBrief, RoundView, StepView } from '@/contracts/round-view';
import { ErrorNote } from '@/ui/error-note';
import { EvidenceList } from '@/ui/evidence-list';
import { formatBytes, formatSeconds, formatTime } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { useJob } from '@/ui/frame/live';
import { useCurrentHandset } from '@/ui/frame/shelf';
import { useRoomWhy } from '@/ui/frame/why';
import { HashText } from '@/ui/hash-text';
import { giveUpAction } from './actions';
import { ByHand } from './by-hand';
import { RouteChart } from './route-chart';
import styles from './round.module.css';
import { StageRail } from './stage-rail';
import { StandInPanel } from './stand-in-panel';
import { StepActions } from './step-actions';
import { useRoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly images: readonly ImageSummary[];
}

export function RoundRoom({ round, images }: Props) {
  const actions = useRoundActions(round);
  useCurrentHandset(round.handset.id);
  const step = round.current === null ? null : (round.steps[round.current] ?? null);
  const linked = round.handset.link === 'stand-in';
  const [byHand, setByHand] = useState<string | null>(null);
  useKeys(useMemo(() => [{ key: 'h', does: 'by hand', run: () => setByHand(step?.id ?? null) }], [step?.id]));
  useRoomWhy(useMemo(() => <RoundWhy round={round} />, [round]));
  return (
    <div className={styles.room} style={linked ? undefined : { gridTemplateColumns: '172px minmax(0, 1fr)' }}>
      <div className={styles.rail}>
        <b>{round.title}</b>
        <div className="soft small">
          <Link href={`/handsets/${round.handset.id}`}>{round.handset.name}</Link>
          <br />
          {round.lane.toLowerCase()}
        </div>
        <StageRail steps={round.steps} current={round.current} />
        <div className={`small ${styles.wayBack}`}>
          <b>Way back to stock</b>
          <div className={round.wayBack.open ? 'soft' : 'bad'}>
            {round.wayBack.open ? '✓ open' : '✗ not open'}: {round.wayBack.sentence}
          </div>
        </div>
        {round.state === 'open' ? (
          <Popconfirm
            title="Give this round up?"
            description="The handset stays as it is; the log keeps what was done."
            okText="Give it up"
            cancelText="Go on"
            onConfirm={() => actions.run(giveUpAction)}
          >
            <Button size="small" type="text" style={{ marginTop: 18, marginLeft: -8 }}>
              Give this round up
            </Button>
          </Popconfirm>
        ) : null}
      </div>
      <div className={styles.mid}>
        <RouteChart steps={round.steps} current={round.current} />
        {actions.error ? <ErrorNote error={actions.error} onDismiss={() => actions.setError(null)} /> : null}
        {step ? (
          <CurrentStep round={round} step={step} actions={actions} hand={byHand === step.id || !linked} openHand={() => setByHand(step.id)} />
        ) : (
          <Ended round={round} />
        )}
      </div>
      {linked ? (
        <aside className={styles.side} aria-label="Stand-in">
          <StandInPanel images={images} />
        </aside>
      ) : null}
    </div>
  );
}

interface StepProps {
  readonly round: RoundView;
  readonly step: StepView;
  readonly actions: ReturnType<typeof useRoundActions>;
  readonly hand: boolean;
  readonly openHand: () => void;
}

function CurrentStep({ round, step, actions, hand, openHand }: StepProps) {
  const number = round.steps.indexOf(step) + 1;
  return (
    <section aria-label={step.text.title}>
      <h1>
        Step {number} of {round.steps.length}: {step.text.title}
      </h1>
      <StepTrouble step={step} />
      <p style={{ marginTop: 8 }}>{step.text.todo}</p>
      {step.writes ? (
        <div className={styles.hold}>
          <span>
            <b>This writes to the handset.</b> Both on mains or well charged; a write that is cut short leaves the partition unknown. Only your own
            device, and only if its maker, carrier, employer and local law allow it. Warranty, payments and work apps may end with root.
          </span>
        </div>
      ) : null}
      <StepActions round={round} step={step} actions={actions} openHand={openHand} />
      <RunningJob jobId={round.runningJob} />
      {hand ? <ByHand key={step.id} round={round} step={step} actions={actions} /> : null}
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
          <h3>If it ends here</h3>
          <p>{step.text.ifItEndsHere}</p>
        </div>
      </div>
      {step.stage === 'Flash' || step.stage === 'Prepare' ? <Images round={round} /> : null}
      <p className="soft small" style={{ marginTop: 10 }}>
        Expected {formatSeconds(step.seconds[0])}, slow over {formatSeconds(step.seconds[1])}.
      </p>
      {step.key === 'close' ? <SignOff round={round} /> : null}
    </section>
  );
}

function StepTrouble({ step }: { step: StepView }) {
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

function RunningJob({ jobId }: { jobId: string | null }) {
  const job = useJob(jobId);
  if (!job || job.state !== 'running') return null;
  const percent = job.totalBytes > 0 ? Math.round((100 * job.doneBytes) / job.totalBytes) : 0;
  const sending = job.phase === 'send' || job.phase === 'write';
  return (
    <div aria-live="polite" style={{ margin: '8px 0' }}>
      <div style={{ display: 'flex', justifyContent: 'space-between' }}>
        <span>
          {job.title}: {job.phase === 'write' ? 'the handset is writing, do not touch the cable' : job.phase}
        </span>
        <span className="soft">{sending ? `${formatBytes(job.doneBytes)} of ${formatBytes(job.totalBytes)}` : ''}</span>
      </div>
      <Progress percent={percent} showInfo={false} size="small" aria-label={`${job.title}: ${job.phase}`} />
      {job.phase === 'write' ? null : (
        <Button size="small" onClick={() => void fetch(`/api/jobs/${job.id}/cancel`, { method: 'POST' })}>
          Stop
        </Button>
      )}
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
        <ImageRow name="Goes on" image={round.patched} />
        <ImageRow name="Way back" image={round.stock} />
      </tbody>
    </table>
  );
}

function SignOff({ round }: { round: RoundView }) {
  return (
    <>
      <h2 style={{ marginTop: 14 }}>Sign-off</h2>
      <table className="ledger">
        <tbody>
          {round.signOff.map((claim) => (
            <tr key={claim.claim}>
              <td style={{ width: '36%' }}>
                <b>{claim.claim}</b>
              </td>
              <td>{claim.evidence.length > 0 ? <EvidenceList evidence={claim.evidence} /> : <b className="bad">no evidence yet</b>}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Ended({ round }: { round: RoundView }) {
  const seconds = round.steps.reduce(
    (sum, step) => sum + (step.startedAt !== null && step.endedAt !== null ? (step.endedAt - step.startedAt) / 1000 : 0),
    0,
  );
  return (
    <section>
      <h1>{round.state === 'given-up' ? 'This round was given up.' : `${round.title}: closed.`}</h1>
      <p style={{ margin: '6px 0 12px' }}>
        {round.closedAt === null ? '' : `${formatTime(round.closedAt)}, `}
        {formatSeconds(seconds)} in {round.steps.filter((step) => step.state === 'done').length} steps. <Link href="/log">See it in the log</Link>
      </p>
      <SignOff round={round} />
    </section>
  );
}

function RoundWhy({ round }: { round: RoundView }) {
  return (
    <>
      <h2>What was seen so far</h2>
      {round.steps
        .filter((step) => step.evidence.length > 0)
        .map((step) => (
          <div key={step.id} style={{ marginTop: 10 }}>
            <b>{step.text.title}</b>
            <EvidenceList evidence={step.evidence} />
          </div>
        ))}
      {round.steps.every((step) => step.evidence.length === 0) ? <p className="soft">Nothing yet.</p> : null}
    </>
  );
}

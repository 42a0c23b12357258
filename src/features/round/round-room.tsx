'use client';
import { Button, Popconfirm } from 'antd';
import { Link } from '@/ui/link';
import { useMemo, useState } from 'react';
import type { ImageSummary } from '@/contracts/image-view';
import type { RoundView } from '@/contracts/round-view';
import { ErrorNote } from '@/ui/error-note';
import { EvidenceList } from '@/ui/evidence-list';
import { formatSeconds, formatTime } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { useCurrentHandset } from '@/ui/frame/shelf';
import { useRoomWhy } from '@/ui/frame/why';
import { wayBackWords } from '@/core/words/way-back';
import { giveUpAction } from './actions';
import { CurrentStep } from './current-step';
import { InterlockNote } from './interlock-note';
import { minuteWords } from './minute-words';
import { RouteChart } from './route-chart';
import styles from './round.module.css';
import { SameWayAgain } from './same-way-again';
import { SignOff } from './sign-off-table';
import { StageRail } from './stage-rail';
import { SeenByLink } from './seen-by-link';
import { StandInPanel } from './stand-in-panel';
import { useRoundActions } from './use-round-actions';

interface Props {
  readonly round: RoundView;
  readonly images: readonly ImageSummary[];
  readonly now: number;
}

export function RoundRoom({ round, images, now }: Props) {
  const actions = useRoundActions(round);
  useCurrentHandset(round.handset.id);
  const step = round.current === null ? null : (round.steps[round.current] ?? null);
  const linked = round.handset.link === 'stand-in' && round.handset.profile !== null;
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
            {round.wayBack.open ? '✓ open' : '✗ not open'}: {wayBackWords(round.wayBack.says)}
          </div>
        </div>
        <Pages round={round} />
        {round.state === 'open' ? (
          <Popconfirm
            title="Give this round up?"
            description="The handset stays as it is; the log keeps what was done."
            okText="Give it up"
            cancelText="Go on"
            onConfirm={() => actions.run(giveUpAction)}
          >
            <Button size="small" type="text" style={{ marginTop: 14, marginLeft: -8 }}>
              Give this round up
            </Button>
          </Popconfirm>
        ) : null}
      </div>
      <div className={styles.mid}>
        <RouteChart steps={round.steps} current={round.current} />
        {actions.error ? <ErrorNote error={actions.error} onDismiss={() => actions.setError(null)} /> : null}
        {round.interlock ? <InterlockNote interlock={round.interlock} actions={actions} /> : null}
        <SeenByLink round={round} actions={actions} />
        {step ? (
          <CurrentStep
            round={round}
            step={step}
            actions={actions}
            hand={byHand === step.id || !linked || !step.byLink}
            openHand={() => setByHand(step.id)}
            now={now}
          />
        ) : (
          <Ended round={round} actions={actions} />
        )}
      </div>
      {linked ? (
        <aside className={styles.side} aria-label="Stand-in">
          <StandInPanel profile={round.handset.profile!} images={images} />
        </aside>
      ) : null}
    </div>
  );
}

function Pages({ round }: { round: RoundView }) {
  return (
    <div className={`small ${styles.wayBack}`}>
      <b>On paper</b>
      <br />
      <Link href={`/rounds/${round.id}/print/rescue`}>Rescue page</Link>
      {round.rescue.stale ? (
        <div className="wait">
          Out of date: the way back has changed.{' '}
          <a href={`/api/rounds/${round.id}/rescue`} download>
            Download it again
          </a>
        </div>
      ) : null}
      <br />
      <Link href={`/rounds/${round.id}/print/run-sheet`}>Run sheet</Link>
      <br />
      <Link href={`/rounds/${round.id}/print/report`}>Report</Link>
    </div>
  );
}

function Ended({ round, actions }: { round: RoundView; actions: ReturnType<typeof useRoundActions> }) {
  return (
    <section>
      <h1>
        {round.state === 'given-up'
          ? 'This round was given up.'
          : `${round.title}: ${round.reached === 'no' ? 'closed, not reached.' : round.reached === 'yes' ? 'reached and closed.' : 'closed.'}`}
      </h1>
      <p style={{ margin: '6px 0 12px' }}>
        {round.closedAt === null ? '' : `${formatTime(round.closedAt)}, `}
        {formatSeconds(round.workedSeconds)} in {round.steps.filter((step) => step.state === 'done').length}{' '}
        steps. <Link href="/log">See it in the log</Link>
      </p>
      <SameWayAgain key={round.again?.answer ?? 'asked'} round={round} actions={actions} />
      <SignOff round={round} actions={actions} />
    </section>
  );
}

function RoundWhy({ round }: { round: RoundView }) {
  return (
    <>
      <h2>Lanes that were compared</h2>
      {round.compared.map((lane) => (
        <p key={lane.title} className={lane.chosen ? '' : 'soft'}>
          {lane.chosen ? <b>{lane.title}</b> : lane.title}: {minuteWords(lane.minutes)}, {lane.restarts}{' '}
          restarts
          {lane.wipes > 0 ? ', erases everything' : ''}
        </p>
      ))}
      <h2 style={{ marginTop: 14 }}>What was seen so far</h2>
      {round.steps
        .filter((step) => step.evidence.length > 0)
        .map((step) => (
          <div key={step.id} style={{ marginTop: 10 }}>
            <b>{step.title}</b>
            <EvidenceList evidence={step.evidence} />
          </div>
        ))}
      {round.steps.every((step) => step.evidence.length === 0) ? <p className="soft">Nothing yet.</p> : null}
    </>
  );
}

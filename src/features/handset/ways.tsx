'use client';
import { Button, Checkbox, Select } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import type { LanePlanView, WaysView } from '@/contracts/plan-view';
import type { Limits } from '@/core/planning/context';
import { ErrorNote } from '@/ui/error-note';
import ui from '@/ui/ui.module.css';
import { useAct } from '@/ui/use-act';
import { startRoundAction } from './actions';
import styles from './handset.module.css';
import { PlanRoute } from './plan-route';

interface Props {
  readonly handset: HandsetDetail;
  readonly ways: WaysView;
}

const minutes = ([expected, slow]: readonly [number, number]) =>
  Math.round(expected) === Math.round(slow) ? `${Math.round(expected)} min` : `${Math.round(expected)} to ${Math.round(slow)} min`;

/** Every way to what is wanted, side by side before anything is begun: each was played on the machine before it is shown. */
export function Ways({ handset, ways }: Props) {
  const router = useRouter();
  const [chosen, setChosen] = useState(ways.pick);
  const plan = ways.plans.find((one) => one.lane.id === chosen) ?? ways.plans[0];
  // what was ticked shows at once, before the plans are there
  const [limits, setLimits] = useState(ways.limits);
  const go = (goal: string, wanted: Limits) => {
    setLimits(wanted);
    const query = new URLSearchParams({
      part: 'ways',
      goal,
      computer: wanted.computer ? 'yes' : 'no',
      wipe: wanted.wipeAllowed ? 'yes' : 'no',
      fuse: wanted.keepFuse ? 'keep' : 'no',
    });
    router.push(`/handsets/${handset.id}?${query}`, { scroll: false });
  };
  return (
    <>
      <div className={styles.line}>
        <span>What do you want?</span>
        <Select
          aria-label="What do you want"
          style={{ width: 280 }}
          value={ways.goal}
          onChange={(goal) => go(goal, limits)}
          options={ways.goals.map(({ id, words }) => ({ value: id, label: words }))}
        />
        <Checkbox checked={limits.computer} onChange={(event) => go(ways.goal, { ...limits, computer: event.target.checked })}>
          a computer is at hand
        </Checkbox>
        <Checkbox checked={limits.wipeAllowed} onChange={(event) => go(ways.goal, { ...limits, wipeAllowed: event.target.checked })}>
          it may be erased
        </Checkbox>
        <Checkbox checked={limits.keepFuse} onChange={(event) => go(ways.goal, { ...limits, keepFuse: event.target.checked })}>
          its fuse has to stay whole
        </Checkbox>
      </div>
      {ways.missing ? <p className="wait">{ways.missing}</p> : null}
      {ways.assumptions.length > 0 ? (
        <p className="soft small">Taken for granted, because nothing says otherwise: {ways.assumptions.join(' ')}</p>
      ) : null}
      {ways.plans.length > 0 ? (
        <>
          <h2 style={{ margin: '10px 0 2px' }}>
            {ways.plans.length === 1 ? 'One way leads there' : `${ways.plans.length} ways lead there`}
            {ways.target ? <span className="soft"> ({ways.target})</span> : null}
          </h2>
          <p className="soft">{ways.why} Each was played through on the machine before it is shown here.</p>
          <LaneTable plans={ways.plans} pick={ways.pick} chosen={plan?.lane.id ?? null} onChoose={setChosen} />
        </>
      ) : ways.missing ? null : (
        <h2 style={{ margin: '10px 0 2px' }}>{ways.others.length > 0 ? 'No way leads there from here.' : ways.why}</h2>
      )}
      {plan ? <ChosenPlan handset={handset} plan={plan} /> : null}
      {ways.others.length > 0 ? (
        <>
          <h2 style={{ marginTop: 18 }}>Why not the others</h2>
          <table className="ledger">
            <tbody>
              {ways.others.map((out) => (
                <tr key={out.lane.id}>
                  <td style={{ width: 360 }}>{out.lane.title}</td>
                  <td style={{ width: 110 }}>{out.verdict}</td>
                  <td className="small">{out.reason}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      ) : null}
    </>
  );
}

interface TableProps {
  readonly plans: readonly LanePlanView[];
  readonly pick: string | null;
  readonly chosen: string | null;
  readonly onChoose: (id: string) => void;
}

function LaneTable({ plans, pick, chosen, onChoose }: TableProps) {
  return (
    <table className={`ledger ${styles.lanes}`}>
      <thead>
        <tr>
          <th>Lane</th>
          <th>Wipes</th>
          <th>Time</th>
          <th>Without root</th>
          <th>Restarts</th>
          <th>Offers to refuse</th>
          <th>Writes</th>
          <th>Downloads</th>
          <th>What is lost</th>
        </tr>
      </thead>
      <tbody>
        {plans.map(({ lane, figures, lost }) => (
          <tr key={lane.id} data-open={lane.id === chosen}>
            <td>
              <button type="button" className={ui.pick} aria-pressed={lane.id === chosen} onClick={() => onChoose(lane.id)}>
                {lane.title}
              </button>
              {lane.id === pick ? <b> our pick</b> : null}
              <div className="soft small">
                For it: {lane.forIt}. Against it: {lane.againstIt}.
              </div>
            </td>
            <td className={figures.wipes > 0 ? 'bad' : ''}>{figures.wipes === 0 ? 'none' : figures.wipes}</td>
            <td>{minutes(figures.minutes)}</td>
            <td>{Math.round(figures.minutesWithoutRoot)} min</td>
            <td>{figures.restarts}</td>
            <td>{figures.offers === 0 ? 'none' : figures.offers}</td>
            <td>{figures.writes}</td>
            <td>{figures.downloads}</td>
            <td className={lost.length > 0 ? 'bad' : ''}>{lost.length === 0 ? 'nothing' : lost.join(', ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What is easily overlooked, and what the usual slips would cost here. */
function WatchOut({ plan: { notes, risk } }: { plan: LanePlanView }) {
  const [least, most] = risk.between.map((one) => Math.round(one)) as [number, number];
  return (
    <div className={styles.columns} style={{ margin: '6px 0 10px' }}>
      <div>
        <h3>Watch out</h3>
        {notes.map((note) => (
          <p key={`${note.step}${note.sentence}`} className="small">
            <b>Step {note.step}.</b> {note.sentence}
          </p>
        ))}
        {notes.length === 0 ? <p className="soft small">Nothing stands out.</p> : null}
      </div>
      <div>
        <h3>
          Slips cost about {risk.minutes < 1 ? 'less than a minute' : `${Math.round(risk.minutes)} min`} a round
          {most > 0 ? `, mostly ${least} to ${most} min` : ''}
        </h3>
        {risk.slips.map((slip) => (
          <p key={`${slip.slip}${slip.step}`} className="small">
            <b>Step {slip.step}.</b> {Math.round(slip.rate * 100)} in 100: {slip.title}. {slip.sentence}{' '}
            {slip.minutes === null ? '' : `${Math.round(slip.minutes)} min more.`}
          </p>
        ))}
        {risk.slips.length === 0 ? <p className="soft small">None of the usual ones can happen here.</p> : null}
      </div>
    </div>
  );
}

const WHO: Readonly<Record<LanePlanView['steps'][number]['who'], string>> = {
  computer: 'here',
  handset: 'on the handset',
  link: 'over the link',
  root: 'root on the handset',
};

function ChosenPlan({ handset, plan }: { handset: HandsetDetail; plan: LanePlanView }) {
  const router = useRouter();
  const { act, busy, error, dismiss } = useAct();
  return (
    <section aria-label={plan.lane.title} style={{ marginTop: 14 }}>
      <div className={styles.planHead}>
        <h2>{plan.lane.title}, step by step</h2>
        {plan.walkable ? (
          <Button
            type="primary"
            loading={busy}
            onClick={() =>
              act(
                () => startRoundAction(handset.id),
                (roundId) => router.push(`/rounds/${roundId}`),
              )
            }
          >
            Start this round
          </Button>
        ) : (
          <span className="soft small">Eterno does not walk you through this lane yet; these are its steps.</span>
        )}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <PlanRoute steps={plan.steps} />
      <WatchOut plan={plan} />
      <table className="ledger">
        <thead>
          <tr>
            <th style={{ width: 28 }} />
            <th>Step</th>
            <th>Who</th>
            <th>Time</th>
            <th>If it ends here</th>
          </tr>
        </thead>
        <tbody>
          {plan.steps.map((step, i) => (
            <tr key={`${i}${step.title}`}>
              <td className="soft">{i + 1}</td>
              <td>
                {step.title}
                {step.wipes ? <b className="bad"> erases everything</b> : step.writes ? <b> writes</b> : null}
              </td>
              <td className="soft small">{WHO[step.who]}</td>
              <td className="small">{minutes(step.minutes)}</td>
              <td className={`small ${step.ifItEndsHere.starts ? '' : 'bad'}`}>
                {step.ifItEndsHere.sentence}
                {step.ifItEndsHere.wayBack
                  ? ` Cheapest way back: ${step.ifItEndsHere.wayBack.lane.toLowerCase()}, ${step.ifItEndsHere.wayBack.minutes} min.`
                  : ''}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

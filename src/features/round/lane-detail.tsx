import type { LanePlanView } from '@/contracts/plan-view';
import { minuteWords } from './minute-words';
import { RouteChart } from './route-chart';
import styles from './round.module.css';
import { LINT_WORDS } from '@/core/words/plan';

/** What is easily overlooked, and what the usual slips would cost here. */
function WatchOut({ plan }: { plan: LanePlanView }) {
  const { notes, risk } = plan;
  const [least, most] = risk.between.map((one) => Math.round(one)) as [number, number];
  return (
    <div className={styles.cols} style={{ margin: '6px 0 10px' }}>
      <div>
        <h3>Watch out</h3>
        {notes.map((note) => (
          <p key={`${note.step}${note.code}`} className="small">
            {LINT_WORDS[note.code]}
          </p>
        ))}
        {notes.length === 0 ? <p className="soft small">Nothing stands out.</p> : null}
        <Tamper plan={plan} />
      </div>
      <div>
        <h3>
          Slips cost about {risk.minutes < 1 ? 'less than a minute' : `${Math.round(risk.minutes)} min`} a
          round
          {most > 0 ? `, mostly ${least} to ${most} min` : ''}
        </h3>
        {risk.slips.map((slip) => (
          <p key={`${slip.slip}${slip.step}`} className="small">
            {Math.round(slip.rate * 100)} in 100: {slip.title}. {slip.sentence}{' '}
            {slip.minutes === null ? '' : `${Math.round(slip.minutes)} min more.`}
          </p>
        ))}
        {risk.slips.length === 0 ? (
          <p className="soft small">None of the usual ones can happen here.</p>
        ) : null}
      </div>
    </div>
  );
}

/** What the handset will say of itself afterwards, and never forgets. */
function Tamper({ plan: { tamper } }: { plan: LanePlanView }) {
  const { blowsAt, writes } = tamper;
  if (blowsAt === null && writes === 0) return null;
  return (
    <p className="small">
      {blowsAt === null ? null : (
        <>
          <b className="bad">A warranty fuse, where it has one, blows</b> at “{blowsAt}”, for good.{' '}
        </>
      )}
      {writes === 0 ? null : `A write counter, where it has one, goes up by ${writes}. Nothing sets it back.`}
    </p>
  );
}

interface Props {
  readonly plan: LanePlanView;
  /** Steps of the last good round; what it had not is marked. */
  readonly before: readonly string[] | null;
}

/** One lane: its route, what to watch, and every step with what the handset is if it ends there. */
export function LaneDetail({ plan, before }: Props) {
  return (
    <section aria-label={plan.lane.title} style={{ marginTop: 16 }}>
      <h2>{plan.lane.title}, step by step</h2>
      <RouteChart steps={plan.steps} current={null} />
      <WatchOut plan={plan} />
      <table className="ledger">
        <thead>
          <tr>
            <th style={{ width: 28 }} />
            <th>Step</th>
            <th style={{ width: 96 }}>Time</th>
            <th>If you stop after this step</th>
          </tr>
        </thead>
        <tbody>
          {plan.steps.map((step, i) => (
            <tr key={`${i}${step.title}`}>
              <td className="soft">{i + 1}</td>
              <td>
                {step.title}
                {step.erases && !step.title.includes('erases') ? (
                  <b className="bad"> erases everything</b>
                ) : step.writes ? (
                  <b> writes</b>
                ) : null}
                {step.holds ? <span className="wait"> no restart after it</span> : null}
                {before !== null && !before.includes(step.key) ? (
                  <b className={styles.fresh}> new since last time</b>
                ) : null}
              </td>
              <td className="small">{minuteWords(step.minutes)}</td>
              <td className={`small ${/loops|not start/.test(step.ifItEndsHere) ? 'bad' : ''}`}>
                {step.ifItEndsHere}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

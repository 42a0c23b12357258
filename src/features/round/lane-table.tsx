'use client';
import type { LanePlanView, WaysView } from '@/contracts/plan-view';
import ui from '@/ui/ui.module.css';
import { minuteWords } from './minute-words';
import styles from './round.module.css';

interface TableProps {
  readonly ways: WaysView;
  readonly chosen: string | null;
  readonly onChoose: (id: string) => void;
}

/** Every way that leads there, compared; the chosen one is open below it. */
export function LaneTable({ ways, chosen, onChoose }: TableProps) {
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
          <th>File trips</th>
          <th>What is lost</th>
        </tr>
      </thead>
      <tbody>
        {ways.plans.map((plan) => (
          <LaneRow
            key={plan.lane.id}
            plan={plan}
            open={plan.lane.id === chosen}
            pick={plan.lane.id === ways.pick}
            last={plan.lane.id === ways.last?.lane}
            onChoose={onChoose}
          />
        ))}
      </tbody>
    </table>
  );
}

function LaneRow({
  plan,
  open,
  pick,
  last,
  onChoose,
}: {
  plan: LanePlanView;
  open: boolean;
  pick: boolean;
  last: boolean;
  onChoose: (id: string) => void;
}) {
  const { lane, figures, lost } = plan;
  return (
    <tr data-open={open}>
      <td>
        <button type="button" className={ui.pick} aria-pressed={open} onClick={() => onChoose(lane.id)}>
          {lane.title}
        </button>
        {pick ? <b> recommended</b> : null}
        {last ? <span className="soft"> as last time</span> : null}
        <div className="soft small">
          For it: {lane.forIt}. Against it: {lane.againstIt}.
        </div>
      </td>
      <td className={figures.wipes > 0 ? 'bad' : ''}>{figures.wipes === 0 ? 'none' : figures.wipes}</td>
      <td>{minuteWords(figures.minutes)}</td>
      <td>{Math.round(figures.minutesWithoutRoot)} min</td>
      <td>{figures.restarts}</td>
      <td>{figures.offers === 0 ? 'none' : figures.offers}</td>
      <td>{figures.writes}</td>
      <td>{figures.downloads}</td>
      <td>{figures.fileTrips}</td>
      <td className={lost.length > 0 ? 'bad' : ''}>{lost.length === 0 ? 'nothing' : lost.join(', ')}</td>
    </tr>
  );
}

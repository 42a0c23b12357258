import { loopWayOut } from '@/core/words/loops';
import { Button } from 'antd';
import type { ReturnView } from '@/contracts/round-view';
import { reportBatchAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

interface Props {
  readonly back: ReturnView;
  /** Done by the person: they say what the start came to. */
  readonly byHand: boolean;
  readonly actions: RoundActions;
}

const percent = (share: number) => `${share < 0.1 ? (share * 100).toFixed(1) : Math.round(share * 100)} %`;
const list = (names: readonly string[]) => (names.length === 0 ? 'none' : names.join(', '));

/**
 * Modules coming back: what is tried next and why, what is suspected, and the way out of a loop before the
 * first batch.
 */
export function ComingBack({ back, byHand, actions }: Props) {
  const { next, nextNames, suspects } = back;
  return (
    <section aria-label="Modules coming back" className={styles.back}>
      {next ? (
        <p>
          <b>Next: {list(nextNames)}.</b> It starts with {nextNames.length === 1 ? 'it' : 'them'} with a
          chance of {percent(next.goesWell)}; in all {next.restarts.toFixed(1)} restarts and{' '}
          {next.loops.toFixed(1)} loops are to be expected from here.
        </p>
      ) : (
        <p>Every module is settled.</p>
      )}
      {suspects.length > 0 ? (
        <p className="wait">
          One of these breaks it:{' '}
          {suspects.map(({ name, chance }) => `${name} (${percent(chance)})`).join(', ')}.
        </p>
      ) : null}
      <table className="ledger">
        <tbody>
          <tr>
            <td className="soft" style={{ width: 150 }}>
              Back and good
            </td>
            <td>{list(back.good)}</td>
          </tr>
          <tr>
            <td className="soft">Stays off</td>
            <td className={back.bad.length > 0 ? 'bad' : ''}>{list(back.bad)}</td>
          </tr>
          <tr>
            <td className="soft">Not tried yet</td>
            <td>{list(back.waiting)}</td>
          </tr>
          <tr>
            <td className="soft">If it loops</td>
            <td>{loopWayOut(back.restsAfter)}</td>
          </tr>
        </tbody>
      </table>
      {byHand && next ? (
        <div className={styles.actions}>
          <Button
            type="primary"
            loading={actions.busy}
            onClick={() => actions.run((at) => reportBatchAction(at, 'started'))}
          >
            It started with {nextNames.length === 1 ? 'it' : 'them'}
          </Button>
          <Button loading={actions.busy} onClick={() => actions.run((at) => reportBatchAction(at, 'looped'))}>
            It looped
          </Button>
        </div>
      ) : null}
    </section>
  );
}

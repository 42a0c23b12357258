'use client';
import { Button } from 'antd';
import { useState } from 'react';
import type { RoundStepView, RoundView } from '@/contracts/round-view';
import type { WayView } from '@/contracts/way-view';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import type { Said } from '@/ui/way-row';
import { WayForm, WayRow } from '@/ui/way-row';
import { sayWayAction } from './actions';
import styles from './round.module.css';

interface Props {
  readonly round: RoundView;
  readonly step: RoundStepView;
}

function useSay({ round, step }: Props) {
  const { act, busy, error, dismiss } = useAct();
  const say = (way: WayView, { value, ...said }: Said, then = () => undefined as void) =>
    act(
      () =>
        sayWayAction({
          handsetId: round.handset.id,
          way: way.id,
          value: value as object | string,
          ...said,
          where: step.title,
        }),
      then,
    );
  return { say, busy, trouble: error ? <ErrorNote error={error} onDismiss={dismiss} /> : null };
}

/** Keys, how long, what the screen must show, and the nearest wrong keys; a guess says that it is one. */
export function KeysOfStep(props: Props) {
  const { step } = props;
  const { keyCard } = step;
  const [otherwise, setOtherwise] = useState(false);
  const { say, busy, trouble } = useSay(props);
  if (!keyCard) return null;
  const way = step.ways.find(({ id }) => id === keyCard.way);
  return (
    <div className={styles.keys}>
      <div className={styles.card} aria-label="Keys to hold">
        <span>
          {keyCard.guess ? <span className="soft">Often: </span> : null}
          {keyCard.keys.map((key, i) => (
            <span key={key}>
              {i > 0 ? ' + ' : ''}
              <kbd>{key}</kbd>
            </span>
          ))}
        </span>
        <span>{keyCard.hold}</span>
        <span>
          Until you see {keyCard.shows}. <span className="soft">{keyCard.wrong}</span>
        </span>
      </div>
      {way ? (
        <div className="small">
          {keyCard.guess ? (
            <span className="wait">
              Nobody has seen this on this model: handsets of its class are often so.{' '}
            </span>
          ) : null}
          {keyCard.guess && way.value !== null ? (
            <Button
              size="small"
              loading={busy}
              onClick={() => say(way, { value: way.value!, sureness: 'seen done', note: '' })}
            >
              These keys worked
            </Button>
          ) : null}
          <Button size="small" type="text" onClick={() => setOtherwise(!otherwise)}>
            It was other keys
          </Button>
        </div>
      ) : null}
      {otherwise && way ? (
        <WayForm
          way={way}
          busy={busy}
          say={(said) => say(way, said, () => setOtherwise(false))}
          close={() => setOtherwise(false)}
        />
      ) : null}
      {trouble}
    </div>
  );
}

/** The words of the model that this step speaks in, to be put right where they differ. */
export function WordsOfStep(props: Props) {
  const { step } = props;
  const { say, busy, trouble } = useSay(props);
  if (step.ways.length === 0) return null;
  const open = step.ways.filter(({ sureness }) => sureness === null || sureness === 'guessed').length;
  return (
    <details className={styles.words}>
      <summary>
        Other keys or words on this handset?{' '}
        <span className="soft">
          {open === 0
            ? `This step uses ${step.ways.length} of its model’s own.`
            : `${open} of the ${step.ways.length} that this step uses ${open === 1 ? 'is' : 'are'} not known yet.`}
        </span>
      </summary>
      {trouble}
      <table className="ledger">
        <tbody>
          {step.ways.map((way) => (
            <WayRow
              key={way.id}
              way={way}
              busy={busy}
              say={(said, then) => say(way, said, then)}
              forget={null}
            />
          ))}
        </tbody>
      </table>
    </details>
  );
}

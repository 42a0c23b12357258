'use client';
import { Button } from 'antd';
import type { HandsetState } from '@/core/handset/state';
import styles from './round.module.css';

interface Props {
  readonly state: HandsetState;
  readonly tell: (path: string, body: object) => void;
}

/** Longer than any chord, in milliseconds. */
const HOLD_MS = 1300;

/** Faults on wish: a lost cable, an empty battery, the nearest wrong key. */
export function StandInFaults({ state, tell }: Props) {
  const wrongKey = () => {
    // power alone where a chord is wanted: the commonest slip of fingers
    tell('key', { key: 'power', down: true });
    setTimeout(() => tell('key', { key: 'power', down: false }), HOLD_MS);
  };
  return (
    <div className={styles.faults}>
      <Button size="small" onClick={() => tell('cable', { connected: !state.cable })}>
        {state.cable ? 'Pull the cable' : 'Plug the cable in'}
      </Button>
      <Button size="small" onClick={() => tell('battery', { percent: state.batteryPercent > 30 ? 18 : 82 })}>
        {state.batteryPercent > 30 ? 'Empty the battery' : 'Charge it'}
      </Button>
      <Button size="small" onClick={wrongKey}>
        Wrong key
      </Button>
    </div>
  );
}

'use client';
import { Button, Select } from 'antd';
import { useState } from 'react';
import type { HandsetState } from '@/core/handset/state';
import type { HiddenFaultId } from '@/core/words/hidden-faults';
import { HIDDEN_FAULT_IDS, HIDDEN_FAULT_WORDS } from '@/core/words/hidden-faults';
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
      <HiddenFault tell={tell} />
    </div>
  );
}

type Choice = HiddenFaultId | 'surprise';

/** A fault that hides until the next start; or one of them, and it is not said which. */
function HiddenFault({ tell }: Pick<Props, 'tell'>) {
  const [chosen, setChosen] = useState<Choice>('surprise');
  const put = () => {
    const any = HIDDEN_FAULT_IDS[Math.floor(Math.random() * HIDDEN_FAULT_IDS.length)];
    tell('fault', { fault: chosen === 'surprise' ? any : chosen });
  };
  return (
    <>
      <Select<Choice>
        aria-label="Hidden fault"
        size="small"
        popupMatchSelectWidth={false}
        style={{ minWidth: 150, maxWidth: 220 }}
        value={chosen}
        onChange={setChosen}
        options={[
          { value: 'surprise', label: 'Surprise me' },
          ...HIDDEN_FAULT_IDS.map((id) => ({ value: id, label: HIDDEN_FAULT_WORDS[id] })),
        ]}
      />
      <Button size="small" onClick={put}>
        Put the fault in
      </Button>
      <Button size="small" onClick={() => tell('other-cable', {})}>
        Another cable
      </Button>
    </>
  );
}

import type { KitOnShelf, RecoveryOnShelf, TrialView } from '@/contracts/handset-view';
import { formatDay } from './format';
import styles from './ui.module.css';

const SIGNS: Readonly<Record<TrialView['outcome'], string>> = {
  worked: '✓ worked',
  looped: '✗ looped',
  misbehaved: '≈ misbehaved',
};

interface Props {
  readonly item: Pick<KitOnShelf | RecoveryOnShelf, 'name' | 'version' | 'channel' | 'supports' | 'trials'>;
  readonly devices?: readonly string[];
  readonly note?: string;
}

/**
 * A kit or recovery on its shelf: version, channel, what it supports, and on which builds it was seen to
 * work.
 */
export function OnShelf({ item, devices, note }: Props) {
  return (
    <div className={styles.onShelf}>
      <b>
        {item.name} {item.version}
      </b>{' '}
      <span className={item.channel === 'stable' ? 'soft' : 'wait'}>{item.channel}</span>
      <div className="soft small">
        {[devices ? `for ${devices.join(', ')}` : '', item.supports, note ?? '']
          .filter((part) => part !== '')
          .join('; ')}
      </div>
      {item.trials.map((trial) => (
        <div key={`${trial.build}${trial.at}`} className="small">
          <b className={trial.outcome === 'worked' ? '' : 'bad'}>{SIGNS[trial.outcome]}</b> on{' '}
          <span className="mono">{trial.build}</span>
          {trial.handset ? `, ${trial.handset}` : ''}, {formatDay(trial.at)}
          {trial.note ? `: ${trial.note}` : ''}
        </div>
      ))}
      {item.trials.length === 0 ? <div className="soft small">Not tried on any build yet.</div> : null}
    </div>
  );
}

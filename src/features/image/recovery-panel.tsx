'use client';
import { Button, Select } from 'antd';
import { useState } from 'react';
import type { ImageDetail } from '@/contracts/image-view';
import type { ProofLine } from '@/core/patch/prove-patch';
import { ErrorNote } from '@/ui/error-note';
import { Link } from '@/ui/link';
import { useAct } from '@/ui/use-act';
import { putRecoveryAction } from './actions';
import styles from './image.module.css';
import { ProofList } from './proof-list';

interface Props {
  readonly image: ImageDetail;
  readonly openRound: { readonly id: string; readonly handset: string } | null;
}

interface Made {
  readonly sha256: string;
  readonly proof: readonly ProofLine[];
}

/** Puts a recovery of the shelf into a stock image that holds more than the recovery. */
export function RecoveryPanel({ image, openRound }: Props) {
  const { sha256: stock, partition, takesRecoveries } = image;
  const [recovery, setRecovery] = useState(takesRecoveries[0]?.sha256 ?? null);
  const [made, setMade] = useState<Made | null>(null);
  const { act, busy, error, dismiss } = useAct();
  if (recovery === null) return null;
  const run = () => act(() => putRecoveryAction({ stock, recovery }), setMade);
  return (
    <section className={styles.patch} aria-label="Put a recovery in">
      <div className={styles.patchHead}>
        <span>
          Put{' '}
          <Select
            aria-label="Recovery"
            size="small"
            value={recovery}
            onChange={setRecovery}
            options={takesRecoveries.map(({ sha256, name }) => ({ value: sha256, label: name }))}
          />{' '}
          into this {partition}: only its recovery is replaced, all else stays.
        </span>
        {made ? (
          <Onward made={made} openRound={openRound} />
        ) : (
          <Button type={image.report.ramdisk ? 'default' : 'primary'} loading={busy} onClick={run}>
            Put it in
          </Button>
        )}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {made ? (
        <div style={{ marginTop: 10 }}>
          <b>
            {made.proof.filter(({ ok }) => ok).length} of {made.proof.length} checks hold
          </b>{' '}
          <span className="soft">the result is in the vault, the stock image beside it</span>
          <ProofList proof={made.proof} />
        </div>
      ) : null}
    </section>
  );
}

const Onward = ({ made, openRound }: Pick<Props, 'openRound'> & { readonly made: Made }) => (
  <Link href={openRound ? `/rounds/${openRound.id}` : `/images/${made.sha256}`}>
    <Button type="primary">{openRound ? 'Back to the round' : 'See the image'}</Button>
  </Link>
);

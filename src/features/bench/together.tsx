import { Button } from 'antd';
import { Link } from '@/ui/link';
import { memo } from 'react';
import type { BenchRow } from '@/contracts/handset-view';
import { ErrorNote } from '@/ui/error-note';
import { NextStrip } from '@/ui/next-strip';
import { useAct } from '@/ui/use-act';
import { startBatchAction } from './actions';
import type { SameRounds } from './same-rounds';
import { sameRounds } from './same-rounds';
import styles from './bench.module.css';

/** Handsets of one model that wait for one build: a round for each, from one package. */
export const Together = memo(function Together({ rows }: { readonly rows: readonly BenchRow[] }) {
  const { act, busy, error, dismiss } = useAct();
  const groups = sameRounds(rows);
  if (groups.length === 0) return null;
  return (
    <section aria-label="Rounds together" className={styles.together}>
      {groups.map((group) => (
        <NextStrip
          key={group.buildId}
          action={
            <Start
              group={group}
              busy={busy}
              onStart={() => act(() => startBatchAction(group.rows.map((row) => row.id)))}
            />
          }
        >
          <b>
            {group.rows.length} handsets of the model {group.model} wait for{' '}
            <span className="mono">{group.buildId}</span>.
          </b>{' '}
          Its package is opened once, its images are taken and patched once; each handset has its own checks
          and its own writes.
          <span className="soft"> {group.rows.map((row) => row.name).join(', ')}.</span>
          {group.rows.map((row) =>
            row.waits && row.roundId === null ? (
              <span key={row.id} className="wait">
                {' '}
                By your rule {row.name} still has to wait.
              </span>
            ) : null,
          )}
        </NextStrip>
      ))}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
});

function Start({
  group,
  busy,
  onStart,
}: {
  readonly group: SameRounds;
  readonly busy: boolean;
  readonly onStart: () => void;
}) {
  return (
    <>
      {group.open > 0 ? (
        <Link href={`/rounds/${group.rows.find((row) => row.roundId)!.roundId!}`}>
          {group.open} of {group.rows.length} {group.open === 1 ? 'rounds is' : 'rounds are'} open
        </Link>
      ) : null}
      {group.open < group.rows.length ? (
        <Button loading={busy} onClick={onStart}>
          {group.open === 0 ? 'Start a round for each' : 'Start the rest'}
        </Button>
      ) : null}
    </>
  );
}

'use client';
import { Button } from 'antd';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState, useTransition } from 'react';
import type { HandsetDetail, SlotContentView } from '@/contracts/handset-view';
import type { ErrorData } from '@/core/errors';
import { shareWithRoot } from '@/core/schedule/continuity';
import { ContinuityBand } from '@/ui/charts/continuity-band';
import { ErrorNote } from '@/ui/error-note';
import { formatAge, formatDay, formatTime } from '@/ui/format';
import { useKeys } from '@/ui/frame/keys';
import { useCurrentHandset } from '@/ui/frame/shelf';
import { useRoomWhy } from '@/ui/frame/why';
import { HashText } from '@/ui/hash-text';
import { ROOT_WORDS, StateMark } from '@/ui/state-mark';
import { startRoundAction } from './actions';
import { factValue } from './fact-value';
import styles from './handset.module.css';
import { PasteFacts } from './paste-facts';

const SOURCE_WORDS = { link: 'read over the link', pasted: 'pasted', typed: 'typed', file: 'from a file' } as const;

interface Props {
  readonly handset: HandsetDetail;
  readonly now: number;
}

export function HandsetRoom({ handset, now }: Props) {
  const router = useRouter();
  useCurrentHandset(handset.id);
  const [pasting, setPasting] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const [busy, startTransition] = useTransition();
  const start = useMemo(
    () => () => {
      if (handset.next.goes === 'round') return router.push(`/rounds/${handset.roundId}`);
      if (handset.next.goes === 'firmware') return router.push('/firmware');
      if (handset.next.goes === 'handset') return setPasting(true);
      startTransition(async () => {
        const started = await startRoundAction(handset.id);
        if (started.ok) router.push(`/rounds/${started.value}`);
        else setError(started.error);
      });
    },
    [handset, router],
  );
  useKeys(
    useMemo(
      () => [
        { key: 'Enter', does: 'do what comes next', run: start },
        { key: 'p', does: 'paste what it printed', run: () => setPasting(true) },
      ],
      [start],
    ),
  );
  useRoomWhy(useMemo(() => <HandsetWhy handset={handset} />, [handset]));
  const share = shareWithRoot(handset.spans);
  return (
    <div className={styles.room}>
      <div className={styles.head}>
        <StateMark state={handset.root} size={30} />
        <div>
          <h1>{handset.name}</h1>
          <span className="soft">
            {handset.model} · {ROOT_WORDS[handset.root]}
            {handset.serialEnd ? ` · serial ends in ${handset.serialEnd}` : ''}
          </span>
        </div>
        <div className={styles.actions}>
          <Button onClick={() => setPasting(true)}>Paste what it printed</Button>
        </div>
      </div>
      <div className={styles.next}>
        <span>{handset.next.sentence}</span>
        <Button type="primary" onClick={start} loading={busy}>
          {handset.next.goes === 'handset' ? 'Paste what it printed' : handset.next.button}
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      <ContinuityBand
        spans={handset.spans}
        builds={handset.builds}
        waiting={handset.waiting}
        now={now}
        width={1100}
        label={`${handset.name}: root over the last ten months`}
      />
      {share === null || handset.root === 'unknown' ? null : (
        <p className="soft small">With root {Math.round(share * 100)} % of the days it was on the bench.</p>
      )}
      <div className={styles.columns}>
        <FactTable handset={handset} now={now} />
        <div>
          <h2>Slot map</h2>
          <SlotMap slots={handset.slots} active={handset.known.currentSlot} />
          <h2 style={{ marginTop: 20 }}>Way back to stock, right now</h2>
          <p className={handset.wayBack.open ? '' : 'bad'}>
            {handset.wayBack.open ? `Open: ${handset.wayBack.sentence}.` : `Not open: ${handset.wayBack.sentence}.`}
          </p>
          <h2 style={{ marginTop: 20 }}>Rounds</h2>
          <Rounds handset={handset} />
        </div>
      </div>
      <PasteFacts handsetId={handset.id} open={pasting} onClose={() => setPasting(false)} />
    </div>
  );
}

function FactTable({ handset, now }: Props) {
  if (handset.facts.length === 0) return <p className="soft">Nothing is known of it yet. Paste what it prints.</p>;
  return (
    <div>
      <h2>Facts, each with its source</h2>
      <table className="ledger">
        <tbody>
          {handset.facts.map((fact) => (
            <tr key={fact.key}>
              <td className="soft" style={{ whiteSpace: 'nowrap' }}>
                {fact.label}
              </td>
              <td className="mono" style={{ overflowWrap: 'anywhere' }}>
                {factValue(fact.value)}
              </td>
              <td className="soft small" style={{ whiteSpace: 'nowrap' }} title={formatTime(fact.at)}>
                {SOURCE_WORDS[fact.source]}, {formatAge(fact.at, now)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function SlotMap({ slots, active }: { slots: readonly SlotContentView[]; active: string | null }) {
  if (slots.length === 0) return <p className="soft">Nothing is known of its partitions yet. A write or a read-back fills this in.</p>;
  return (
    <div className={styles.slots}>
      {slots.map((slot) => (
        <div key={`${slot.slot}${slot.partition}`} className={styles.slot} data-active={slot.slot === active}>
          <b>
            {slot.slot === '-' ? '' : `Slot ${slot.slot}, `}
            {slot.partition}
          </b>
          <div>
            {slot.certainty === 'unknown' ? (
              <b className="bad">unknown until written again</b>
            ) : (
              `${slot.role ?? 'stock, not in the vault'} ${slot.build ?? ''}`
            )}{' '}
            {slot.sha256 ? <HashText hash={slot.sha256} /> : null}
          </div>
          <div className="soft small">
            {slot.certainty}: {slot.reason}, {formatDay(slot.at)}
          </div>
        </div>
      ))}
    </div>
  );
}

function Rounds({ handset }: { handset: HandsetDetail }) {
  if (handset.rounds.length === 0) return <p className="soft">No round yet.</p>;
  return (
    <table className="ledger">
      <tbody>
        {handset.rounds.map((round) => (
          <tr key={round.id}>
            <td>
              <Link href={`/rounds/${round.id}`}>{round.title}</Link>
            </td>
            <td className="soft">{formatDay(round.openedAt)}</td>
            <td>{round.state === 'given-up' ? 'given up' : round.state}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function HandsetWhy({ handset }: { handset: HandsetDetail }) {
  return (
    <>
      <h2>Where root sits</h2>
      <p style={{ margin: '4px 0 12px' }}>
        {handset.rootPartition.partition ?? 'Not known'}. {handset.rootPartition.reason} {handset.rootPartition.sure ? '' : 'The package decides.'}
      </p>
      <h2>What comes next</h2>
      <p style={{ marginTop: 4 }}>{handset.next.sentence}</p>
    </>
  );
}

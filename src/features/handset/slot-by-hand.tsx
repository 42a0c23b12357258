'use client';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import { READ_BACK_PARTITIONS } from '@/core/slots/read-back';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { slotByHandAction } from './actions';
import styles from './handset.module.css';

const NOT_KNOWN = 'unknown';

/** The slot map changed by hand: for what happened outside Eterno. The reason stays in the log. */
export function SlotByHand({ handset }: { handset: HandsetDetail }) {
  const { act, busy, error, dismiss } = useAct();
  const oneSlot = handset.known.slotCount === 1;
  const [slot, setSlot] = useState<'a' | 'b' | '-'>(
    oneSlot ? '-' : handset.known.currentSlot === 'b' ? 'b' : 'a',
  );
  const [partition, setPartition] = useState(handset.rootPartition.partition ?? 'boot');
  const [image, setImage] = useState(NOT_KNOWN);
  const [reason, setReason] = useState('');
  const own = handset.shelf.filter((one) => one.partition === partition);
  const submit = () =>
    act(
      () =>
        slotByHandAction({
          handsetId: handset.id,
          slot,
          partition,
          sha256: image === NOT_KNOWN ? null : image,
          reason,
        }),
      () => setReason(''),
    );
  return (
    <section aria-label="Change the map by hand">
      <h2>Something happened outside Eterno?</h2>
      <p className="soft">Say what lies where. It counts as predicted until it is read back.</p>
      <div className={styles.line}>
        <Select
          aria-label="Slot"
          style={{ width: 100 }}
          value={slot}
          onChange={setSlot}
          options={(oneSlot ? (['-'] as const) : (['a', 'b'] as const)).map((one) => ({
            value: one,
            label: one === '-' ? 'one slot' : `slot ${one}`,
          }))}
        />
        <Select
          aria-label="Partition"
          style={{ width: 130 }}
          value={partition}
          onChange={(next: string) => {
            setPartition(next);
            setImage(NOT_KNOWN);
          }}
          options={READ_BACK_PARTITIONS.map((one) => ({ value: one, label: one }))}
        />
        <Select
          aria-label="Image"
          style={{ width: 260 }}
          value={image}
          onChange={setImage}
          options={[
            { value: NOT_KNOWN, label: 'something nobody knows' },
            ...own.map((one) => ({
              value: one.sha256,
              label: `${one.role === 'patched' ? `patched, ${one.kit}` : one.role}, ${one.build ?? 'build not named'}`,
            })),
          ]}
        />
      </div>
      <div className={styles.line}>
        <Input
          aria-label="What happened"
          placeholder="What happened, for the log"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <Button loading={busy} disabled={reason.trim() === ''} onClick={submit}>
          Write it down
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
}

'use client';
import { Button, Form, Input, InputNumber, Select } from 'antd';
import { useState } from 'react';
import type { TrialView } from '@/contracts/handset-view';
import type { StoreView } from '@/contracts/store-view';
import { ErrorNote } from '@/ui/error-note';
import { OnShelf } from '@/ui/on-shelf';
import { useAct } from '@/ui/use-act';
import { noteTrialAction, shelveRecoveryAction } from './actions';
import styles from './store.module.css';

/** Kits and recoveries: version, channel, what each supports, and on which builds it was seen to work. */
export function Shelves({ store }: { store: StoreView }) {
  return (
    <div className={styles.columns} style={{ marginTop: 22 }}>
      <section aria-label="Kits">
        <h2>Kits</h2>
        {store.kits.map((kit) => (
          <OnShelf key={kit.sha256} item={kit} />
        ))}
        {store.kits.length === 0 ? <p className="soft">None. Drop a kit under Firmware.</p> : null}
        <NoteTrial store={store} />
      </section>
      <section aria-label="Recoveries">
        <h2>Recoveries</h2>
        {store.recoveries.map((recovery) => (
          <OnShelf key={recovery.id} item={recovery} devices={recovery.devices} note={recovery.note} />
        ))}
        {store.recoveries.length === 0 ? <p className="soft">None noted.</p> : null}
        <ShelveRecovery store={store} />
      </section>
    </div>
  );
}

function NoteTrial({ store }: { store: StoreView }) {
  const { act, busy, error, dismiss } = useAct();
  const items = [
    ...store.kits.map((kit) => ({
      value: `kit ${kit.id}`,
      label: `${kit.name} ${kit.version}`,
      shelf: 'kit' as const,
      item: kit.id,
    })),
    ...store.recoveries.map((one) => ({
      value: `recovery ${one.id}`,
      label: `${one.name} ${one.version}`,
      shelf: 'recovery' as const,
      item: one.id,
    })),
  ];
  const [chosen, setChosen] = useState<string | null>(null);
  const [fingerprint, setFingerprint] = useState<string | null>(null);
  const [outcome, setOutcome] = useState<TrialView['outcome']>('worked');
  const [note, setNote] = useState('');
  const picked = items.find((one) => one.value === chosen);
  return (
    <details style={{ marginTop: 8 }}>
      <summary>Note how one worked on a build</summary>
      <div className={styles.line}>
        <Select
          aria-label="Kit or recovery"
          placeholder="kit or recovery"
          style={{ width: 170 }}
          value={chosen}
          onChange={setChosen}
          options={items}
        />
        <Select
          aria-label="Build"
          placeholder="build"
          showSearch
          style={{ width: 250 }}
          value={fingerprint}
          onChange={setFingerprint}
          options={store.builds.map((build) => ({
            value: build.fingerprint,
            label: `${build.buildId} ${build.product}`,
          }))}
        />
        <Select
          aria-label="Outcome"
          style={{ width: 130 }}
          value={outcome}
          onChange={setOutcome}
          options={(['worked', 'looped', 'misbehaved'] as const).map((one) => ({ value: one, label: one }))}
        />
        <Input
          aria-label="Note"
          placeholder="what was seen"
          style={{ width: 200 }}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <Button
          loading={busy}
          disabled={!picked || fingerprint === null}
          onClick={() =>
            act(
              () =>
                noteTrialAction({
                  shelf: picked!.shelf,
                  item: picked!.item,
                  fingerprint: fingerprint!,
                  handsetId: null,
                  outcome,
                  note,
                }),
              () => setNote(''),
            )
          }
        >
          Note it
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </details>
  );
}

interface RecoveryFields {
  readonly name: string;
  readonly version: string;
  readonly channel: 'stable' | 'preview' | 'unofficial';
  readonly devices: string[];
  readonly sdkFrom: number | null;
  readonly sdkTo: number | null;
  readonly sha256: string | null;
  readonly note: string;
}

function ShelveRecovery({ store }: { store: StoreView }) {
  const { act, busy, error, dismiss } = useAct();
  const [form] = Form.useForm<RecoveryFields>();
  // stock images are the way back already; what an image is follows from its bytes when it goes on the shelf
  const images = store.images.filter((image) => image.role === 'recovery' || image.role === 'unknown');
  return (
    <details style={{ marginTop: 8 }}>
      <summary>Put a recovery on the shelf</summary>
      <Form<RecoveryFields>
        form={form}
        layout="vertical"
        requiredMark={false}
        initialValues={{ channel: 'stable', devices: [], sdkFrom: null, sdkTo: null, sha256: null, note: '' }}
        onFinish={(fields) =>
          act(
            () => shelveRecoveryAction({ ...fields, note: fields.note ?? '' }),
            () => form.resetFields(),
          )
        }
      >
        <div className={styles.line}>
          <Form.Item name="name" label="Name" rules={[{ required: true, message: 'What is it called?' }]}>
            <Input style={{ width: 150 }} />
          </Form.Item>
          <Form.Item name="version" label="Version" rules={[{ required: true, message: 'Which version?' }]}>
            <Input style={{ width: 100 }} />
          </Form.Item>
          <Form.Item name="channel" label="Channel">
            <Select
              style={{ width: 120 }}
              options={(['stable', 'preview', 'unofficial'] as const).map((one) => ({
                value: one,
                label: one,
              }))}
            />
          </Form.Item>
          <Form.Item name="sdkFrom" label="From level">
            <InputNumber min={1} max={999} style={{ width: 90 }} />
          </Form.Item>
          <Form.Item name="sdkTo" label="To level">
            <InputNumber min={1} max={999} style={{ width: 90 }} />
          </Form.Item>
        </div>
        <div className={styles.line}>
          <Form.Item
            name="devices"
            label="For code names"
            rules={[{ required: true, message: 'For which code names?' }]}
          >
            <Select mode="tags" style={{ width: 220 }} tokenSeparators={[',', ' ']} />
          </Form.Item>
          <Form.Item name="sha256" label="Its image, if it is in the vault">
            <Select
              allowClear
              style={{ width: 240 }}
              options={images.map((image) => ({
                value: image.sha256,
                label: `${image.partition} ${image.build ?? ''} ${image.sha256.slice(0, 8)}…`,
              }))}
            />
          </Form.Item>
          <Form.Item name="note" label="How you know it is for them">
            <Input style={{ width: 260 }} placeholder="its maker’s page names this model" />
          </Form.Item>
        </div>
        <Button htmlType="submit" loading={busy}>
          Put it on the shelf
        </Button>
      </Form>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </details>
  );
}

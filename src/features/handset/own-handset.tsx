'use client';
import { Button, Input, Modal, Popconfirm } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import type { useAct } from '@/ui/use-act';
import { notStartingAction, putAwayAction, removeAction, renameAction, rootedAction } from './actions';
import styles from './handset.module.css';

interface Props {
  readonly handset: HandsetDetail;
  readonly act: ReturnType<typeof useAct>['act'];
  readonly busy: boolean;
}

/** States of root in which a person may say that it is there. */
const UNSAID: readonly HandsetDetail['root'][] = ['unknown', 'stock', 'lost'];

/** What a person says of a handset as a whole, and how it is kept. */
export function OwnHandset({ handset, act, busy }: Props) {
  const router = useRouter();
  const { id, name } = handset;
  return (
    <div className={styles.own}>
      <Popconfirm
        title={`${name} does not start?`}
        description="The round that puts its stock image back begins, from the state that it is in. Nothing is erased."
        okText="Put its stock image back"
        cancelText="No"
        onConfirm={() =>
          act(
            () => notStartingAction(id),
            (round) => router.push(`/rounds/${round}`),
          )
        }
      >
        <Button size="small" type="text" loading={busy}>
          It does not start
        </Button>
      </Popconfirm>
      {UNSAID.includes(handset.root) ? (
        <Button size="small" type="text" loading={busy} onClick={() => act(() => rootedAction(id))}>
          It is rooted already
        </Button>
      ) : null}
      <Rename handset={handset} act={act} busy={busy} />
      <Popconfirm
        title={`Put ${name} away?`}
        description="All of it is kept. It leaves the bench and the calendar until you bring it back."
        okText="Put it away"
        cancelText="No"
        onConfirm={() =>
          act(
            () => putAwayAction(id),
            () => router.push('/'),
          )
        }
      >
        <Button size="small" type="text" loading={busy}>
          Put away
        </Button>
      </Popconfirm>
      <Popconfirm
        title={`Remove ${name} for good?`}
        description="Its facts, private values, rounds and log go with it. Images and packages stay. This can’t be undone."
        okText="Remove it"
        okButtonProps={{ danger: true }}
        cancelText="No"
        onConfirm={() =>
          act(
            () => removeAction(id),
            () => router.push('/'),
          )
        }
      >
        <Button size="small" type="text" loading={busy}>
          Remove
        </Button>
      </Popconfirm>
    </div>
  );
}

function Rename({ handset: { id, name }, act, busy }: Props) {
  const [asked, setAsked] = useState<string | null>(null);
  const close = () => setAsked(null);
  return (
    <>
      <Button size="small" type="text" onClick={() => setAsked(name)}>
        Rename
      </Button>
      <Modal
        open={asked !== null}
        title="What do you call it?"
        okText="Rename it"
        okButtonProps={{ disabled: (asked ?? '').trim() === '', loading: busy }}
        onCancel={close}
        onOk={() => act(() => renameAction({ handsetId: id, name: asked ?? '' }), close)}
      >
        <Input
          aria-label="Name"
          maxLength={60}
          value={asked ?? ''}
          onChange={(event) => setAsked(event.target.value)}
        />
      </Modal>
    </>
  );
}

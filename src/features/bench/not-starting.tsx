'use client';
import { Button, Popconfirm } from 'antd';
import { useRouter } from 'next/navigation';
import type { BenchRow } from '@/contracts/handset-view';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { notStartingAction } from './actions';

/** From the bench to the stock image's file, command and keys: two presses. */
export function NotStarting({ row }: { readonly row: BenchRow }) {
  const router = useRouter();
  const { act, busy, error, dismiss } = useAct();
  return (
    <>
      <Popconfirm
        placement="topRight"
        title={`${row.name} does not start?`}
        description="The round that puts its stock image back begins, from the state that it is in. Nothing is erased."
        okText="Put its stock image back"
        cancelText="No"
        onConfirm={() =>
          act(
            () => notStartingAction(row.id),
            (round) => router.push(`/rounds/${round}`),
          )
        }
      >
        <Button type="text" size="small" loading={busy}>
          It does not start
        </Button>
      </Popconfirm>
      <Button type="text" size="small" onClick={() => router.push(`/rescue?handset=${row.id}`)}>
        Find out why
      </Button>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

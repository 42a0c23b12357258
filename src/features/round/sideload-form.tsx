'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { RoundView, RoundStepView } from '@/contracts/round-view';
import type { ErrorData } from '@/core/errors';
import { CheckList } from './check-list';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

/**
 * A package from the person's disk goes to the handset as it is; the browser streams it, nothing of it is
 * kept here.
 */
export function SideloadForm({
  round,
  step,
  actions,
}: {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly actions: RoundActions;
}) {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [sending, setSending] = useState(false);
  const send = async () => {
    if (!file) return;
    setSending(true);
    const query = new URLSearchParams({
      version: String(round.version),
      size: String(file.size),
      name: file.name,
    });
    const response = await fetch(`/api/rounds/${round.id}/sideload?${query}`, {
      method: 'PUT',
      body: file,
    }).catch(() => null);
    setSending(false);
    if (response && !response.ok) actions.setError(((await response.json()) as { error: ErrorData }).error);
    router.refresh();
  };
  return (
    <>
      <CheckList round={round} actions={actions} label="Keep these reasons" />
      <div className={styles.actions}>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="Choose the package to send"
          onChange={(event) => setFile(event.target.files?.[0] ?? null)}
        />
        <Button type={file ? 'default' : 'primary'} onClick={() => input.current?.click()}>
          {file ? file.name : 'Choose the package'}
        </Button>
        <Button
          type={file ? 'primary' : 'default'}
          disabled={file === null}
          loading={sending || step.state === 'running'}
          onClick={() => void send()}
        >
          Send it to the handset
        </Button>
      </div>
    </>
  );
}

'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { BuildPackageNeeded, RoundStepView, RoundView } from '@/contracts/round-view';
import type { ErrorData } from '@/core/errors';
import { formatBytes } from '@/ui/format';
import type { RoundActions } from './use-round-actions';

/**
 * The package of a whole build goes from the person's disk to the handset; the browser streams it. Images
 * too large to be kept are taken out of it on the way.
 */
export function BuildPackageForm({
  round,
  step,
  needs,
  actions,
}: {
  readonly round: RoundView;
  readonly step: RoundStepView;
  readonly needs: BuildPackageNeeded;
  readonly actions: RoundActions;
}) {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [files, setFiles] = useState<readonly File[]>([]);
  const [sending, setSending] = useState(false);
  const send = async () => {
    setSending(true);
    const list = new TextEncoder().encode(JSON.stringify(files.map(({ name, size }) => ({ name, size }))));
    const query = new URLSearchParams({ version: String(round.version), head: String(list.length) });
    const response = await fetch(`/api/rounds/${round.id}/build?${query}`, {
      method: 'PUT',
      body: new Blob([list, ...files]),
    }).catch(() => null);
    setSending(false);
    if (response && !response.ok) actions.setError(((await response.json()) as { error: ErrorData }).error);
    router.refresh();
  };
  const { file, partitions, sizeBytes } = needs;
  return (
    <>
      <p className="small" style={{ flexBasis: '100%', margin: 0 }}>
        Choose <b className="mono">{file.name}</b> once more: {partitions.join(', ')}
        {sizeBytes === null ? '' : ` (${formatBytes(sizeBytes)})`}{' '}
        {partitions.length === 1
          ? 'is too large to be kept: it goes from the file to the handset, and is checked before it is written.'
          : 'are too large to be kept: they go from the file to the handset, and each is checked before it is written.'}
      </p>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Choose the package of the build"
        onChange={(event) => setFiles([...(event.target.files ?? [])])}
      />
      <Button type={files.length === 0 ? 'primary' : 'default'} onClick={() => input.current?.click()}>
        {files.length === 0 ? 'Choose the package' : files.map(({ name }) => name).join(', ')}
      </Button>
      <Button
        type={files.length === 0 ? 'default' : 'primary'}
        danger={step.erases}
        disabled={files.length === 0}
        loading={sending || step.state === 'running'}
        onClick={() => void send()}
      >
        Write the whole build
      </Button>
    </>
  );
}

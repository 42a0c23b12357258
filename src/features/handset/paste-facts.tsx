'use client';
import { Button, Drawer, Input } from 'antd';
import { useRouter } from 'next/navigation';
import { useState, useTransition } from 'react';
import type { FactPreview } from '@/contracts/handset-view';
import { factWord } from '@/core/facts/catalogue';
import { LIMITS } from '@/core/limits';
import type { ErrorData } from '@/core/errors';
import { EternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { applyFactsAction, previewFactsAction } from './actions';

interface Props {
  readonly handsetId: string;
  readonly open: boolean;
  readonly onClose: () => void;
}

/** Takes what the handset printed, and shows what would change before it changes. */
export function PasteFacts({ handsetId, open, onClose }: Props) {
  const router = useRouter();
  const [text, setText] = useState('');
  const [source, setSource] = useState<'pasted' | 'file'>('pasted');
  const [preview, setPreview] = useState<FactPreview | null>(null);
  const [error, setError] = useState<ErrorData | null>(null);
  const [busy, startTransition] = useTransition();
  const look = () =>
    startTransition(async () => {
      const result = await previewFactsAction({ handsetId, text });
      setPreview(result.ok ? result.value : null);
      setError(result.ok ? null : result.error);
    });
  const keep = () =>
    startTransition(async () => {
      const result = await applyFactsAction({ handsetId, text, source });
      if (!result.ok) return setError(result.error);
      setText('');
      setPreview(null);
      onClose();
      router.refresh();
    });
  return (
    <Drawer open={open} onClose={onClose} title="Paste what it printed" size={560}>
      <p className="soft" style={{ marginBottom: 8 }}>
        The property dump of the running system, or its bootloader variables. Noise and wrapped lines are
        fine.
      </p>
      <Input.TextArea
        rows={10}
        className="mono"
        spellCheck={false}
        aria-label="What the handset printed"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setSource('pasted');
          setPreview(null);
        }}
      />
      <label className="small">
        or the file it was written to:{' '}
        <input
          type="file"
          aria-label="The file it was written to"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (!file) return;
            if (file.size > LIMITS.factsTextBytes)
              return setError(
                new EternoError('too-large', 'That is longer than any handset prints.', {
                  file: file.name,
                }).toData(),
              );
            void file.text().then((read) => {
              setText(read);
              setSource('file');
              setPreview(null);
            });
          }}
        />
      </label>
      <div style={{ display: 'flex', gap: 10, margin: '10px 0' }}>
        <Button
          type={preview ? 'default' : 'primary'}
          onClick={look}
          loading={busy && !preview}
          disabled={text.trim() === ''}
        >
          Show what would change
        </Button>
        {preview ? (
          <Button type="primary" onClick={keep} loading={busy} disabled={preview.against !== null}>
            Keep{' '}
            {preview.changes.length === 0 ? 'it as read again' : countOf(preview.changes.length, 'change')}
          </Button>
        ) : null}
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      {preview ? <Preview preview={preview} /> : null}
    </Drawer>
  );
}

const countOf = (n: number, thing: string) => `${n} ${thing}${n === 1 ? '' : 's'}`;

function Preview({ preview }: { preview: FactPreview }) {
  const kind = preview.kind === 'properties' ? 'A property dump' : 'Bootloader variables';
  const serial = { yes: 'The serial is this handset’s.', no: '', 'not told': 'No serial to compare.' }[
    preview.serial
  ];
  return (
    <div>
      <p>
        {kind}: {preview.changes.length} would change, {preview.same} stay as they are. {serial}
        {preview.against === null ? null : (
          <b className="bad">{preview.against} Nothing of this can be kept here.</b>
        )}
      </p>
      {preview.changes.length > 0 ? (
        <table className="ledger" style={{ marginTop: 8 }}>
          <thead>
            <tr>
              <th>Fact</th>
              <th>Now</th>
              <th>Then</th>
            </tr>
          </thead>
          <tbody>
            {preview.changes.map((change) => (
              <tr key={change.key}>
                <td>{change.label}</td>
                <td className="mono soft">{factWord(change.before ?? 'not known')}</td>
                <td className="mono">{factWord(change.after)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {preview.unread.length > 0 ? (
        <details style={{ marginTop: 10 }}>
          <summary>{countOf(preview.unread.length, 'line')} could not be read</summary>
          <pre className="mono small" style={{ whiteSpace: 'pre-wrap' }}>
            {preview.unread.slice(0, 100).join('\n')}
          </pre>
        </details>
      ) : null}
    </div>
  );
}

'use client';
import { Button, Drawer, Input } from 'antd';
import { useState, useTransition } from 'react';
import type { FactPreview } from '@/contracts/handset-view';
import type { ErrorData } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { factValue } from './fact-value';
import { applyFactsAction, previewFactsAction } from './actions';

interface Props {
  readonly handsetId: string;
  readonly open: boolean;
  readonly onClose: () => void;
}

/** Takes what the handset printed, and shows what would change before it changes. */
export function PasteFacts({ handsetId, open, onClose }: Props) {
  const [text, setText] = useState('');
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
      const result = await applyFactsAction({ handsetId, text });
      if (!result.ok) return setError(result.error);
      setText('');
      setPreview(null);
      onClose();
    });
  return (
    <Drawer open={open} onClose={onClose} title="Paste what it printed" size={560}>
      <p className="soft" style={{ marginBottom: 8 }}>
        The property dump of the running system, or its bootloader variables. Noise and wrapped lines are fine.
      </p>
      <Input.TextArea
        rows={10}
        className="mono"
        spellCheck={false}
        aria-label="What the handset printed"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setPreview(null);
        }}
      />
      <div style={{ display: 'flex', gap: 10, margin: '10px 0' }}>
        <Button type={preview ? 'default' : 'primary'} onClick={look} loading={busy && !preview} disabled={text.trim() === ''}>
          Show what would change
        </Button>
        {preview ? (
          <Button type="primary" onClick={keep} loading={busy} disabled={preview.serialSame === false}>
            Keep {preview.changes.length === 0 ? 'it as read again' : countOf(preview.changes.length, 'change')}
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
  const serial = preview.serialSame === null ? 'No serial to compare.' : preview.serialSame ? 'The serial is this handset’s.' : '';
  return (
    <div>
      <p>
        {kind}: {preview.changes.length} would change, {preview.same} stay as they are. {serial}
        {preview.serialSame === false ? <b className="bad">The serial is another handset’s: nothing of this can be kept here.</b> : null}
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
                <td className="mono soft">{factValue(change.before ?? 'not known')}</td>
                <td className="mono">{factValue(change.after)}</td>
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

'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import type { RescueCase } from '@/contracts/rescue-view';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { readAnswersAction } from './actions';
import styles from './rescue.module.css';
import type { Case } from './use-case';

/** Answers by reading: from the handset itself where it is linked, or out of what a tool printed. */
export function ReadIt({
  handset,
  now,
}: {
  readonly handset: NonNullable<RescueCase['handset']>;
  readonly now: Case;
}) {
  const [text, setText] = useState('');
  const { act, busy, error, dismiss } = useAct();
  const read = (from: string | null) =>
    act(
      () => readAnswersAction({ handsetId: handset.id, text: from, symptoms: [...now.symptoms] }),
      (found) => {
        now.read(found, from === null ? 'link' : 'paste');
        setText('');
      },
    );
  return (
    <section aria-label="Read it instead" className={styles.read}>
      {handset.link ? (
        <Button loading={busy} onClick={() => read(null)}>
          Read it from the handset
        </Button>
      ) : null}
      <details>
        <summary className="soft">Paste what your tool printed</summary>
        <Input.TextArea
          aria-label="What your tool printed"
          rows={4}
          value={text}
          placeholder="its list, the bootloader’s variables, the system’s properties, or what a request for root gave back"
          onChange={({ target }) => setText(target.value)}
        />
        <Button disabled={busy || text.trim() === ''} onClick={() => read(text)}>
          Take the answers in it
        </Button>
      </details>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
}

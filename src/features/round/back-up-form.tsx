'use client';
import { Button, Input, Radio } from 'antd';
import { useState } from 'react';
import { BACKUP_KINDS } from '@/core/backups/backup-set';
import type { BackupKind, BackupPart } from '@/core/words/backups';
import { BACKUP_KIND_WORDS } from '@/core/words/backups';
import { BackupParts } from '@/ui/backup-parts';
import { backUpAction } from './actions';
import styles from './round.module.css';
import type { RoundActions } from './use-round-actions';

type What = BackupKind | 'none';
const WAYS: readonly { readonly value: What; readonly label: string }[] = [
  ...BACKUP_KINDS.map((value) => ({ value, label: BACKUP_KIND_WORDS[value] })),
  { value: 'none', label: 'nothing has to be kept' },
];

/** What was taken off the handset before it is erased; kept with its records. */
export function BackUpForm({ actions }: { readonly actions: RoundActions }) {
  const [what, setWhat] = useState<What | null>(null);
  const [parts, setParts] = useState<readonly BackupPart[]>([]);
  const [note, setNote] = useState('');
  return (
    <>
      <div className={styles.questions}>
        <div role="group" aria-label="What lies off the handset now" className={styles.question}>
          <span>Off the handset now</span>
          <Radio.Group
            value={what}
            onChange={(event) => {
              setWhat(event.target.value as What);
              setParts([]);
            }}
            options={[...WAYS]}
          />
        </div>
        {what === null || what === 'none' ? null : (
          <BackupParts what={what} value={parts} onChange={setParts} />
        )}
        <label>
          <span>{what === 'none' ? 'Why not' : 'Where it lies'}</span>
          <Input
            style={{ width: 360 }}
            maxLength={300}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
      </div>
      <div className={styles.actions}>
        <Button
          type="primary"
          disabled={what === null || (what === 'none' && note.trim() === '')}
          loading={actions.busy}
          onClick={() => actions.run((at) => backUpAction(at, what!, note, parts))}
        >
          Write it down, go on
        </Button>
      </div>
    </>
  );
}

'use client';
import { Checkbox } from 'antd';
import { SET_PARTS } from '@/core/backups/backup-set';
import type { BackupKind, BackupPart } from '@/core/words/backups';
import { BACKUP_PART_WORDS } from '@/core/words/backups';
import styles from './ui.module.css';

/** What of a whole set is in a backup: each part by itself, or all of it at once. */
export function BackupParts({
  what,
  value,
  onChange,
}: {
  readonly what: BackupKind;
  readonly value: readonly BackupPart[];
  readonly onChange: (parts: readonly BackupPart[]) => void;
}) {
  const whole = SET_PARTS[what];
  const all = whole.every((part) => value.includes(part));
  return (
    <div role="group" aria-label="In it, or none of it on this handset" className={styles.parts}>
      <Checkbox
        checked={all}
        indeterminate={!all && value.length > 0}
        onChange={({ target }) => onChange(target.checked ? whole : [])}
      >
        <b>A whole set: all of this is in it, or there is none of it on this handset</b>
      </Checkbox>
      {whole.map((part) => (
        <Checkbox
          key={part}
          checked={value.includes(part)}
          onChange={({ target }) =>
            onChange(target.checked ? [...value, part] : value.filter((one) => one !== part))
          }
        >
          {BACKUP_PART_WORDS[part]}
        </Checkbox>
      ))}
    </div>
  );
}

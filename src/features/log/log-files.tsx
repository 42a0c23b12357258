import { Button, Checkbox } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { LogImport } from '@/contracts/log-view';
import { EXPORT_FORM_NAMES, EXPORT_FORMS } from '@/contracts/log-view';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { sendLog } from '@/ui/send';
import styles from './log.module.css';

/** The log as a file, and a log of Eterno's own back in, whole. */
export function LogFiles({ empty }: { readonly empty: boolean }) {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [withPrivate, setWithPrivate] = useState(false);
  const [text, setText] = useState<string | null>(null);
  const [found, setFound] = useState<LogImport | null>(null);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const send = async (log: string, apply: boolean) => {
    setBusy(true);
    setError(null);
    try {
      setFound(await sendLog(log, apply));
      if (apply) {
        setText(null);
        router.refresh();
      }
    } catch (thrown) {
      setError(toEternoError(thrown, 'io').toData());
    }
    setBusy(false);
  };
  const fresh = found?.tables.reduce((sum, table) => sum + table.fresh, 0) ?? 0;
  return (
    <section aria-label="Out and in" className={styles.files}>
      <h2>Out and in</h2>
      {empty ? null : (
        <div className={styles.line}>
          {EXPORT_FORM_NAMES.map((form) => (
            <a
              key={form}
              href={`/api/log?form=${form}&private=${form === 'json' && withPrivate ? 'yes' : 'no'}`}
              download
            >
              <Button size="small">{EXPORT_FORMS[form]}</Button>
            </a>
          ))}
          <Checkbox checked={withPrivate} onChange={(event) => setWithPrivate(event.target.checked)}>
            serials, tokens and codes in the JSON too
          </Checkbox>
        </div>
      )}
      <div className={styles.line}>
        <input
          ref={input}
          type="file"
          accept=".json,application/json"
          hidden
          aria-label="A log of Eterno"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = '';
            if (file)
              void file.text().then((log) => {
                setText(log);
                return send(log, false);
              });
          }}
        />
        <Button size="small" loading={busy} onClick={() => input.current?.click()}>
          Bring a log in
        </Button>
        {found ? (
          <span role="status">
            {found.applied
              ? 'It is in.'
              : `${fresh} rows are new, ${found.tables.reduce((sum, table) => sum + table.rows - table.fresh - table.differing, 0)} are here already, ${found.tables.reduce((sum, table) => sum + table.differing, 0)} say something else here.`}
          </span>
        ) : null}
        {found && !found.applied && text !== null ? (
          <Button
            size="small"
            type="primary"
            disabled={fresh === 0}
            loading={busy}
            onClick={() => void send(text, true)}
          >
            Bring the new rows in
          </Button>
        ) : null}
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      {found && found.conflicts.length > 0 ? <Conflicts found={found} /> : null}
    </section>
  );
}

const Conflicts = ({ found }: { readonly found: LogImport }) => (
  <>
    <p className="wait small">These rows are here already and say something else. What is here stays.</p>
    <table className="ledger">
      <tbody>
        {found.conflicts.map((conflict) => (
          <tr key={conflict.table + conflict.key}>
            <td>{conflict.table}</td>
            <td className="mono small">{conflict.key.slice(0, 60)}</td>
            <td>{conflict.columns.join(', ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
    {found.moreConflicts > 0 ? <p className="soft small">and {found.moreConflicts} more</p> : null}
  </>
);

import { Button, Input, Select } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { ModulesView, ModuleView } from '@/contracts/module-view';
import { toHex } from '@/core/bytes/bytes';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { ModuleOutcome } from '@/core/modules/chance';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import { sendModule } from '@/ui/send';
import { useAct } from '@/ui/use-act';
import { noteModuleTrialAction } from './actions';
import styles from './modules.module.css';

/** Files of modules, read here: what each touches, which paths it lays over, on which handsets it is. */
export function ModuleShelf({ view }: { readonly view: ModulesView }) {
  return (
    <section aria-label="The shelf of modules">
      <div className={styles.head}>
        <h2>On the shelf</h2>
        <AddModules />
      </div>
      {view.unread.length > 0 ? (
        <p className="wait">
          Eterno has not read {view.unread.length === 1 ? 'the file' : 'the files'} of{' '}
          {view.unread.join(', ')} on {view.handset?.name}, so it does not know what{' '}
          {view.unread.length === 1 ? 'it changes' : 'they change'}. Add{' '}
          {view.unread.length === 1 ? 'it' : 'them'} here.
        </p>
      ) : null}
      {view.clashes.map((clash) => (
        <p key={clash.path} className="bad">
          {clash.modules.join(' and ')} lay different files over <span className="mono">{clash.path}</span>:
          nothing decides which of them is used. Keep one of them off.
        </p>
      ))}
      {view.shelf.length === 0 ? (
        <p className="soft">
          Eterno has read no module yet. Add their ZIP files: what a module changes tells how likely it breaks
          the next build.
        </p>
      ) : (
        <table className="ledger">
          <thead>
            <tr>
              <th>Module</th>
              <th>Touches</th>
              <th>Replaces</th>
              <th>Scripts</th>
              <th className="num">Size</th>
              <th>On</th>
            </tr>
          </thead>
          <tbody>
            {view.shelf.map((one) => (
              <ShelfRow key={one.sha256} module={one} />
            ))}
          </tbody>
        </table>
      )}
      <NoteTrial view={view} />
    </section>
  );
}

function ShelfRow({ module: one }: { readonly module: ModuleView }) {
  return (
    <tr>
      <td>
        <b>{one.name}</b> <span className="mono small">{one.version}</span>
        <div className="soft small">{one.description}</div>
      </td>
      <td>
        {one.scopes.length === 0 ? <span className="soft">nothing but its scripts</span> : null}
        {one.scopes.map(({ scope, because }) => (
          <div key={scope} title={because}>
            {scope}
          </div>
        ))}
      </td>
      <td className="small">
        {one.paths.length === 0 ? (
          <span className="soft">nothing</span>
        ) : (
          <details>
            <summary>
              {one.paths.length === 1 ? (
                <span className="mono">{one.paths[0]}</span>
              ) : (
                `${one.paths.length} paths`
              )}
            </summary>
            {one.paths.map((path) => (
              <div key={path} className="mono">
                {path}
              </div>
            ))}
          </details>
        )}
      </td>
      <td className="mono small">{one.scripts.join(', ')}</td>
      <td className="num">{formatBytes(one.sizeBytes)}</td>
      <td>
        {one.on.length === 0 ? <span className="soft">no handset</span> : null}
        {one.on.map(({ id, name, otherVersion }) => (
          <div key={id}>
            {name} {otherVersion === null ? null : <span className="wait small">has {otherVersion}</span>}
          </div>
        ))}
      </td>
    </tr>
  );
}

function AddModules() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const add = async (files: readonly File[]) => {
    setBusy(true);
    setError(null);
    try {
      for (const file of files) {
        const bytes = await file.arrayBuffer();
        const sha256 = toHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes)));
        await sendModule(sha256, bytes, file.name);
      }
    } catch (thrown) {
      setError(toEternoError(thrown, 'io').toData());
    }
    setBusy(false);
    router.refresh();
  };
  return (
    <div>
      <input
        ref={input}
        type="file"
        accept=".zip"
        multiple
        hidden
        aria-label="Files of modules"
        onChange={(event) => {
          void add([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      <Button loading={busy} onClick={() => input.current?.click()}>
        Add module files
      </Button>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </div>
  );
}

function NoteTrial({ view }: { readonly view: ModulesView }) {
  const { act, busy, error, dismiss } = useAct();
  const modules = view.matrix.rows.filter((row) => row.kind === 'module');
  const [module, setModule] = useState(modules[0]?.id ?? '');
  const [build, setBuild] = useState('');
  const [outcome, setOutcome] = useState<ModuleOutcome>('worked');
  const [note, setNote] = useState('');
  if (modules.length === 0) return null;
  const keep = () =>
    act(
      () =>
        noteModuleTrialAction({
          module,
          fingerprint: build,
          handsetId: view.handset?.id ?? null,
          outcome,
          note,
        }),
      () => setNote(''),
    );
  return (
    <details style={{ marginTop: 8 }}>
      <summary className="small">Note how one worked on a build</summary>
      <div className={styles.filters}>
        <Select
          aria-label="Module"
          style={{ width: 180 }}
          value={module}
          onChange={setModule}
          options={modules.map(({ id, name }) => ({ value: id, label: name }))}
        />
        <Select
          aria-label="Build"
          style={{ width: 190 }}
          value={build}
          onChange={setBuild}
          options={[
            { value: '', label: 'on which build?' },
            ...view.matrix.columns.map(({ fingerprint, buildId }) => ({
              value: fingerprint,
              label: buildId,
            })),
          ]}
        />
        <Select
          aria-label="How it worked"
          style={{ width: 140 }}
          value={outcome}
          onChange={setOutcome}
          options={(['worked', 'looped', 'misbehaved'] as const).map((value) => ({ value, label: value }))}
        />
        <Input
          aria-label="Note"
          placeholder="what was seen"
          style={{ width: 240 }}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <Button loading={busy} disabled={build === ''} onClick={keep}>
          Note it
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </details>
  );
}

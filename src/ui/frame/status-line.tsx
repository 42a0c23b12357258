'use client';
import { Modal } from 'antd';
import { useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import type { HandsetSummary } from '@/contracts/handset-view';
import type { JobView } from '@/contracts/job-view';
import { formatBytes } from '../format';
import styles from './frame.module.css';
import { useKeyBindings, useKeys } from './keys';
import { useLive } from './live';
import { useCurrent } from './shelf';
import type { Look } from '../theme';
import ui from '../ui.module.css';

const KEY_NAMES: Readonly<Record<string, string>> = { Enter: 'Enter' };
const keyName = (key: string) => KEY_NAMES[key] ?? key.toUpperCase();

function standInWords({ standIns }: ReturnType<typeof useLive>, profile: string | null): string {
  if (standIns === undefined) return 'Stand-ins …';
  if (standIns === null) return 'Stand-ins not running';
  const standIn = profile === null ? undefined : standIns[profile];
  const linked = Object.keys(standIns).length;
  if (!standIn) return linked === 1 ? '1 stand-in linked' : `${linked} stand-ins linked`;
  const { mode, running, cable } = standIn.state;
  const where =
    mode === 'system' && running
      ? standIn.profile.slotCount === 2
        ? `running, slot ${running.slot}`
        : 'running'
      : mode;
  return `Stand-in ${standIn.profile.model} · ${cable ? where : 'unplugged'}`;
}

function jobWords({ title, phase, doneBytes, totalBytes }: JobView): string {
  return phase === 'send' || phase === 'write'
    ? `${title}: ${phase}, ${formatBytes(doneBytes)} of ${formatBytes(totalBytes)}`
    : `${title}: ${phase}`;
}

interface Props {
  readonly handsets: readonly HandsetSummary[];
  readonly vault: { readonly files: number; readonly bytes: number };
  readonly look: Look;
  readonly dues: ReactNode;
}

export function StatusLine({ handsets, vault, look, dues }: Props) {
  const live = useLive();
  const current = useCurrent();
  const profile = handsets.find((handset) => handset.id === current)?.profile ?? null;
  const bindings = useKeyBindings();
  const [help, setHelp] = useState(false);
  useKeys(useMemo(() => [{ key: '?', does: 'keys', run: () => setHelp((open) => !open) }], []));
  const running = live.jobs.find((job) => job.state === 'running');
  const job = running ? jobWords(running) : 'No jobs';
  const shown = bindings.filter(
    (binding, i) => bindings.findIndex((other) => other.key === binding.key) === i,
  );
  return (
    <footer className={styles.status}>
      {dues}
      <span>{standInWords(live, profile)}</span>
      <span aria-live="polite">{job}</span>
      <span>
        Vault {vault.files} {vault.files === 1 ? 'file' : 'files'}, {formatBytes(vault.bytes)}
      </span>
      <form action="/api/look" method="post">
        <input type="hidden" name="look" value={look === 'dark' ? 'light' : 'dark'} />
        <button type="submit">{look === 'dark' ? 'Light' : 'Dark'}</button>
      </form>
      <span className={styles.keys}>
        {[...shown].reverse().map((binding) => (
          <span key={binding.key}>
            <kbd className={ui.kbd}>{keyName(binding.key)}</kbd> {binding.does}
          </span>
        ))}
      </span>
      <Modal open={help} onCancel={() => setHelp(false)} footer={null} title="Keys that work here">
        <table className="ledger">
          <tbody>
            {shown.map((binding) => (
              <tr key={binding.key}>
                <td>
                  <kbd className={ui.kbd}>{keyName(binding.key)}</kbd>
                </td>
                <td>{binding.does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Modal>
    </footer>
  );
}

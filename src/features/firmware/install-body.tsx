'use client';
import { Button } from 'antd';
import { waysQuery } from '@/contracts/ways-query';
import type { ScriptTargets, Unclear } from '@/core/packages/script-targets';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import { Link } from '@/ui/link';
import { sendInstall } from '@/ui/send';
import styles from './firmware.module.css';
import { PackageEvidence } from './package-evidence';
import { useKeep } from './use-keep';
import type { OpenPackage } from './use-package';

const UNCLEAR: Readonly<Record<Unclear, string>> = {
  computed: 'its script works a place out when it runs',
  compiled: 'its updater is a program, and nothing in it can be read as a script',
  unnamed: 'its script names no partition, and may choose one itself',
};
/** What a changed one of these means. */
const RISKS: Readonly<Record<string, string>> = {
  boot: 'The kernel, and on some handsets root.',
  init_boot: 'Root.',
  vendor_boot: 'What the kernel starts with; on some handsets the recovery.',
  recovery: 'The recovery.',
  bootloader: 'The bootloader: cut short, that can be the end of a handset.',
  radio: 'Calls and mobile data.',
  dtbo: 'What the kernel knows of the hardware.',
  vbmeta: 'Verified boot.',
};
const WISH = { computer: true, wipeAllowed: false, keepFuse: false } as const;

interface Props {
  readonly pack: OpenPackage;
  readonly handsets: readonly { readonly id: string; readonly name: string }[];
}

/** A package that a recovery or root installs: what it writes as its script says it, and its way onto a handset. */
export function InstallBody({ pack, handsets }: Props) {
  const { state, sha256, error, dismiss, keep } = useKeep(pack.file, sendInstall);
  const script = pack.report.script ?? { targets: [], unclear: 'unnamed' as const };
  const told = script.unclear === null && script.targets.every(({ member }) => member !== null);
  return (
    <>
      <div className={styles.verdict}>
        <div>
          <h1>{titleOf(script)}</h1>
          <p className="soft">
            A package that a recovery or root installs, <span className="mono">{pack.file.name}</span>,{' '}
            {formatBytes(pack.file.size)}. {told ? TOLD : NOT_TOLD}
          </p>
        </div>
        {told ? (
          <MainButton state={state} onKeep={keep} sha256={sha256} handset={handsets[0] ?? null} />
        ) : null}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      {state === 'kept' ? <InstallOn sha256={sha256} handsets={handsets} /> : null}
      <Targets script={script} />
      <h3 style={{ marginTop: 16 }}>What proves it</h3>
      <PackageEvidence pack={pack} />
    </>
  );
}

const TOLD =
  'Kept, each image in it is judged like any other; a round reads out first what it overwrites, and its plan says what that does to the fuse.';
const NOT_TOLD = 'Eterno installs only what can be told beforehand.';

function titleOf({ targets, unclear }: ScriptTargets): string {
  if (unclear !== null) return `What it writes can’t be told: ${UNCLEAR[unclear]}.`;
  return `It writes ${targets.map(({ partition }) => partition).join(', ')}.`;
}

const planOf = (handsetId: string, sha256: string) =>
  `/rounds/new?${new URLSearchParams(
    waysQuery(handsetId, 'install a package', { ...WISH, install: sha256 }, null),
  )}`;

interface MainButtonProps {
  readonly state: 'opened' | 'keeping' | 'kept';
  readonly onKeep: () => void;
  readonly sha256: string;
  readonly handset: Props['handsets'][number] | null;
}

/** Keep it, then on with it. */
function MainButton({ state, onKeep, sha256, handset }: MainButtonProps) {
  if (state === 'kept' && handset !== null)
    return (
      <Link href={planOf(handset.id, sha256)}>
        <Button type="primary">Plan it for {handset.name}</Button>
      </Link>
    );
  return (
    <Button type="primary" loading={state === 'keeping'} disabled={state === 'kept'} onClick={onKeep}>
      {state === 'kept' ? 'It is in the vault' : 'Keep this package'}
    </Button>
  );
}

/** What became of it, and the other handsets that it may be for. */
function InstallOn({ sha256, handsets }: { readonly sha256: string; readonly handsets: Props['handsets'] }) {
  const others = handsets.slice(1);
  return (
    <p role="status" style={{ margin: '8px 0' }}>
      <b>✓ It is in the vault, with each image in it.</b>
      {others.length > 0 ? ' Or plan it for ' : ''}
      {others.map(({ id, name }, i) => (
        <span key={id}>
          {i > 0 ? ', ' : ''}
          <Link href={planOf(id, sha256)}>{name}</Link>
        </span>
      ))}
      {others.length > 0 ? '.' : ''}
      {handsets.length === 0 ? ' Put a handset on the bench to install it.' : ''}
    </p>
  );
}

function Targets({ script: { targets } }: { readonly script: ScriptTargets }) {
  if (targets.length === 0) return null;
  return (
    <table className="ledger" aria-label="What it writes" style={{ marginTop: 8 }}>
      <thead>
        <tr>
          <th style={{ width: 160 }}>It writes</th>
          <th style={{ width: 220 }}>From its file</th>
          <th>What that is</th>
        </tr>
      </thead>
      <tbody>
        {targets.map(({ partition, member }) => (
          <tr key={partition}>
            <td className="mono">{partition}</td>
            <td className="mono">{member ?? <span className="wait">not told</span>}</td>
            <td>{RISKS[partition] ?? 'Nothing that starts depends on it, as a rule.'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

'use client';
import { Button } from 'antd';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import styles from './firmware.module.css';
import { PackageEvidence } from './package-evidence';
import { sendKit } from '@/ui/send';
import { useKeep } from './use-keep';
import type { OpenPackage } from './use-package';

/** A patch kit that was opened like a package: what it is, and its way into the vault. */
export function KitBody({ pack }: { pack: OpenPackage }) {
  const { state, error, dismiss, keep } = useKeep(pack.file, sendKit);
  return (
    <>
      <div className={styles.verdict}>
        <div>
          <h1>A patch kit, read and found in order.</h1>
          <p className="soft">
            <span className="mono">{pack.file.name}</span>, {formatBytes(pack.file.size)}. Use only kits whose
            provider you trust: what they add runs as root.
          </p>
        </div>
        <Button type="primary" loading={state === 'keeping'} disabled={state === 'kept'} onClick={keep}>
          {state === 'kept' ? 'It is in the vault' : 'Keep this kit'}
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <PackageEvidence pack={pack} />
    </>
  );
}

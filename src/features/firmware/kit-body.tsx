'use client';
import { Button } from 'antd';
import { useState } from 'react';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import { toHex } from '@/core/bytes/bytes';
import { ErrorNote } from '@/ui/error-note';
import { formatBytes } from '@/ui/format';
import styles from './firmware.module.css';
import { PackageEvidence } from './package-evidence';
import { sendKit } from '@/ui/send';
import type { OpenPackage } from './use-package';

/** A patch kit that was opened like a package: what it is, and its way into the vault. */
export function KitBody({ pack }: { pack: OpenPackage }) {
  const [state, setState] = useState<'opened' | 'keeping' | 'kept'>('opened');
  const [error, setError] = useState<ErrorData | null>(null);
  const keep = async () => {
    setState('keeping');
    setError(null);
    try {
      const bytes = await pack.file.arrayBuffer();
      const sha256 = toHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes)));
      await sendKit(sha256, bytes, pack.file.name);
      setState('kept');
    } catch (thrown) {
      setError(toEternoError(thrown, 'io').toData());
      setState('opened');
    }
  };
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
        <Button
          type="primary"
          loading={state === 'keeping'}
          disabled={state === 'kept'}
          onClick={() => void keep()}
        >
          {state === 'kept' ? 'It is in the vault' : 'Keep this kit'}
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      <PackageEvidence pack={pack} />
    </>
  );
}

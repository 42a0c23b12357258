'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { JudgedPatch } from '@/core/patch/judge-patched';
import { ErrorNote } from '@/ui/error-note';
import { sendImage } from '@/ui/send';
import styles from './image.module.css';
import type { OtherImage } from './use-image';

const TITLES: Readonly<Record<JudgedPatch['verdict'], string>> = {
  holds: 'It belongs to this stock image: only what a patch changes is changed.',
  unexpected: 'Something in it is not what a patch changes.',
  'another build': 'It does not come from this stock image.',
};

/** An image patched elsewhere, judged line by line; kept in the vault only on the person's word. */
export function JudgedList({
  judged,
  other,
  stockSha256,
}: {
  judged: JudgedPatch;
  other: OtherImage;
  stockSha256: string;
}) {
  const router = useRouter();
  const [state, setState] = useState<'open' | 'keeping' | 'kept'>('open');
  const [error, setError] = useState<ErrorData | null>(null);
  const keep = async (file: Blob) => {
    setState('keeping');
    try {
      await sendImage(other.report.sha256, file, { from: 'file', stock: stockSha256, name: other.label });
      setState('kept');
      router.refresh();
    } catch (thrown) {
      setError(toEternoError(thrown).toData());
      setState('open');
    }
  };
  const odd = judged.lines.filter((line) => line.verdict !== 'holds');
  return (
    <div className={styles.judged} data-verdict={judged.verdict}>
      <div className={styles.viewerHead}>
        <b>{TITLES[judged.verdict]}</b>
        {judged.verdict === 'another build' || !other.file ? null : (
          <Button
            size="small"
            loading={state === 'keeping'}
            disabled={state === 'kept'}
            onClick={() => void keep(other.file!)}
          >
            {state === 'kept' ? 'It is in the vault' : 'Keep it in the vault'}
          </Button>
        )}
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
      <ol className={styles.proof}>
        {(odd.length > 0 ? odd : judged.lines).map((line, i) => (
          <li key={line.check}>
            <span className="soft">{i + 1}</span>
            <span>
              {line.check}
              {line.seen ? <span className="soft">: {line.seen}</span> : null}
            </span>
            <b className={line.verdict === 'holds' ? '' : 'bad'}>
              {line.verdict === 'holds' ? '✓ holds' : `✗ ${line.verdict}`}
            </b>
          </li>
        ))}
      </ol>
      {odd.length > 0 && judged.lines.length > odd.length ? (
        <p className="soft small">{judged.lines.length - odd.length} other checks hold.</p>
      ) : null}
      <p className="small soft">What a patch made elsewhere adds runs as root: keep only what you trust.</p>
    </div>
  );
}

'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import type { ReactNode } from 'react';
import { useState } from 'react';
import type { ErrorData } from '@/core/errors';
import { toEternoError } from '@/core/errors';
import type { JudgedPatch } from '@/core/judge/judge-patched';
import { pointSeen, pointWords, unexpectedWords } from '@/core/words/judged';
import { ErrorNote } from '@/ui/error-note';
import { sendImage } from '@/ui/send';
import styles from './image.module.css';
import type { OtherImage } from './use-image';

/** What was found, the worst first. */
function verdictOf({ belongs, times, unexpected }: Judged): string {
  if (belongs === 'no') return 'It does not come from this stock image.';
  if (times > 1)
    return `It was patched ${times} times. Patch the stock image once instead: it is in the vault.`;
  if (belongs === "can't tell") return 'Nothing in it says whether it was made from this stock image.';
  if (unexpected.length === 0) return 'It belongs to this stock image: only what a patch changes is changed.';
  return `It comes from this stock image, and ${unexpected.length === 1 ? 'one thing is' : `${unexpected.length} things are`} changed that a patch has no reason to change.`;
}

/** Only what holds in every way may be kept as a root image. */
export const isGood = ({ belongs, times, unexpected }: Judged) =>
  belongs === 'yes' && times <= 1 && unexpected.length === 0;

const MARKS = { true: '✓ holds', false: '✗ no', null: '? can’t tell' } as const;

type Judged = Pick<JudgedPatch, 'belongs' | 'times' | 'by' | 'unexpected' | 'lines'>;

interface Props {
  readonly judged: Judged;
  /** The build that it names; null where it names none. */
  readonly build: string | null;
  /** What can be done with it, beside the verdict and below what is not expected. */
  readonly deed?: ReactNode;
  readonly after?: ReactNode;
}

/** An image patched elsewhere, judged line by line. */
export function JudgedList({ judged, build, deed, after }: Props) {
  const odd = judged.lines.filter(({ ok }) => ok !== true);
  return (
    <div className={styles.judged} data-belongs={judged.belongs} data-good={isGood(judged)}>
      <div className={styles.viewerHead}>
        <b>{verdictOf(judged)}</b>
        {deed}
      </div>
      <p className="small soft">
        {judged.by.length > 0 ? `Patched by ${judged.by.join(', then ')}. ` : ''}
        {build ? `It names ${build}.` : 'It names no build.'}
      </p>
      {judged.unexpected.length > 0 ? (
        <ul className={styles.changes}>
          {judged.unexpected.map((one) => (
            <li key={JSON.stringify(one)}>
              <b className="bad">not expected</b> {unexpectedWords(one)}
            </li>
          ))}
        </ul>
      ) : null}
      {after}
      <ol className={styles.proof}>
        {(odd.length > 0 ? odd : judged.lines).map(({ point, ok }, i) => (
          <li key={JSON.stringify(point)}>
            <span className="soft">{i + 1}</span>
            <span>
              {pointWords(point)}
              {ok === true ? null : <span className="soft">: {pointSeen(point)}</span>}
            </span>
            <b className={ok === false ? 'bad' : ''}>{MARKS[`${ok}`]}</b>
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

/** Keeps the image that stands beside the stock image; kept on the person's word only. */
export function KeepIt({ file, other, stockSha256 }: { file: Blob; other: OtherImage; stockSha256: string }) {
  const router = useRouter();
  const [state, setState] = useState<'open' | 'keeping' | 'kept'>('open');
  const [error, setError] = useState<ErrorData | null>(null);
  const keep = async () => {
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
  return (
    <>
      <Button
        size="small"
        loading={state === 'keeping'}
        disabled={state === 'kept'}
        onClick={() => void keep()}
      >
        {state === 'kept' ? 'It is in the vault' : 'Keep it in the vault'}
      </Button>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </>
  );
}

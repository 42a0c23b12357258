'use client';
import { Button, Input } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ImageDetail } from '@/contracts/image-view';
import type { ErrorData } from '@/core/errors';
import { ErrorNote } from '@/ui/error-note';
import { Link } from '@/ui/link';
import { trustImageAction } from './actions';
import { isGood, JudgedList } from './judged-list';

/** What the server found an image of the vault to be, and what can be done with it. */
export function KeptJudgement({
  image,
  openRound,
}: {
  image: ImageDetail;
  openRound: { readonly id: string; readonly handset: string } | null;
}) {
  const { judged, trust } = image;
  if (!judged) return null;
  const usable = isGood(judged) || trust !== null;
  return (
    <JudgedList
      judged={judged}
      build={image.build}
      deed={
        usable && openRound ? (
          <Link href={`/rounds/${openRound.id}`}>
            <Button type="primary" size="small">
              Back to the round of {openRound.handset}
            </Button>
          </Link>
        ) : null
      }
      after={
        trust !== null ? (
          <p>You trust whoever made it: “{trust}”. It may be written as root’s image of its build.</p>
        ) : judged.belongs === 'yes' && judged.times <= 1 && !isGood(judged) ? (
          <TrustForm sha256={image.sha256} />
        ) : null
      }
    />
  );
}

/** A ready-made image is written only when its maker is trusted, for a reason that is kept in the log. */
function TrustForm({ sha256 }: { sha256: string }) {
  const router = useRouter();
  const [reason, setReason] = useState('');
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ErrorData | null>(null);
  const trust = async () => {
    setBusy(true);
    const result = await trustImageAction({ sha256, reason });
    setBusy(false);
    if (result.ok) router.refresh();
    else setError(result.error);
  };
  return (
    <div>
      <p>
        Eterno can’t say what was changed in it, only what differs. Write it only if you know who made it and
        trust them: it runs with every right.
      </p>
      <div style={{ display: 'flex', gap: 8, alignItems: 'flex-start' }}>
        <Input
          aria-label="Why you trust whoever made it"
          placeholder="Who made it, and why you trust them"
          maxLength={300}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          style={{ maxWidth: 420 }}
        />
        <Button disabled={reason.trim() === ''} loading={busy} onClick={() => void trust()}>
          I trust it
        </Button>
      </div>
      {error ? <ErrorNote error={error} onDismiss={() => setError(null)} /> : null}
    </div>
  );
}

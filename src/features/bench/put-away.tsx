'use client';
import { Button } from 'antd';
import type { PutAwayView } from '@/contracts/handset-view';
import { ErrorNote } from '@/ui/error-note';
import { formatDay } from '@/ui/format';
import { Link } from '@/ui/link';
import { useAct } from '@/ui/use-act';
import { bringBackAction } from './actions';

/** Handsets that are kept out of the way. */
export function PutAway({ away }: { readonly away: readonly PutAwayView[] }) {
  const { act, busy, error, dismiss } = useAct();
  if (away.length === 0) return null;
  return (
    <section aria-label="Put away" style={{ marginTop: 18 }}>
      <h3>Put away</h3>
      {away.map(({ id, name, model, putAwayAt }) => (
        <p key={id} className="small">
          <Link href={`/handsets/${id}`}>{name}</Link>{' '}
          <span className="soft">
            {model}, on {formatDay(putAwayAt)}
          </span>{' '}
          <Button size="small" type="text" loading={busy} onClick={() => act(() => bringBackAction(id))}>
            Bring it back
          </Button>
        </p>
      ))}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
}

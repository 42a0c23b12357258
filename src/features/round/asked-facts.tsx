'use client';
import { Select } from 'antd';
import type { RoundView } from '@/contracts/round-view';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { sayFactAction } from './actions';

/** What the person looks up on the handset and says in a word; each is kept as soon as it is chosen. */
export function AskedFacts({ round }: { readonly round: RoundView }) {
  const { act, busy, error, dismiss } = useAct();
  if (round.asks.length === 0) return null;
  return (
    <section aria-label="Say what you found">
      <h3>Say what you found</h3>
      {round.asks.map(({ key, label, choices, said }) => (
        <div key={key} style={{ display: 'flex', gap: 12, alignItems: 'center', margin: '6px 0' }}>
          <span style={{ width: 160 }}>{label}</span>
          <Select
            aria-label={label}
            style={{ width: 240 }}
            loading={busy}
            value={said}
            placeholder="what you see"
            options={[...choices]}
            onChange={(value: string | null) => {
              if (value !== null)
                act(() => sayFactAction(round.id, { handsetId: round.handset.id, key, value }));
            }}
          />
        </div>
      ))}
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </section>
  );
}

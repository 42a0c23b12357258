'use client';
import type { PutAwayView } from '@/contracts/handset-view';
import { EmptyNote } from '@/ui/empty-note';
import { AddHandset } from './add-handset';
import { PutAway } from './put-away';

/** The first screen of an empty store: what comes next, in three lines. */
export function EmptyBench({ away }: { readonly away: readonly PutAwayView[] }) {
  return (
    <>
      <EmptyNote title="The bench is empty" action={<AddHandset primary />}>
        1. Put a handset of your own on the bench: paste what it prints, or type what you know.
        <br />
        2. Open the firmware package of its build: Eterno finds the exact image and keeps it as your way back.
        <br />
        3. Start a round: one step at a time, each with its file, its command and what you will see.
        <br />
        <span className="soft small">
          To look around first, start Eterno once more with a made-up world in a store of its own:{' '}
          <span className="mono">ETERNO_DATA=demo PORT=3211 npm run demo</span>
        </span>
      </EmptyNote>
      <PutAway away={away} />
    </>
  );
}

'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { BackBy, RescueCase, RescueMark } from '@/contracts/rescue-view';
import type { CauseId, RepairId, RungId } from '@/core/words/rescue';
import { CAUSE_WORDS, REPAIR_WORDS, RUNG_WORDS } from '@/core/words/rescue';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { markAction } from './actions';
import styles from './rescue.module.css';

/** A case that came to its end. */
export interface EndedCase {
  readonly repair: RepairId | null;
  readonly rung: RungId | null;
  readonly cause: CauseId | null;
  readonly by: BackBy | null;
  readonly marks: readonly RescueMark[];
}

const BY: Readonly<Record<BackBy, string>> = {
  round: 'Its start was seen in the round that did the repair.',
  link: 'The handset itself answered just now.',
  you: 'That it is back is what you said: nothing was read from it yet.',
};

function markWords(mark: RescueMark): string {
  if (mark.kind === 'module') return `It was ${mark.module}`;
  return mark.kind === 'kit' ? `Mark ${mark.item} on this build` : `Never from ${mark.from} to ${mark.to}`;
}

/** Its round has come to its end: one press ends the case too. */
export function BackByRound({
  repair,
  busy,
  onEnd,
  onNot,
}: {
  readonly repair: RepairId;
  readonly busy: boolean;
  readonly onEnd: () => void;
  readonly onNot: () => void;
}) {
  return (
    <section aria-label="Its round is done" className={styles.card}>
      <h2>{REPAIR_WORDS[repair]}: done, and the start was seen</h2>
      <p>Look at it once more: does it still show what you chose?</p>
      <div className={styles.answers}>
        <Button type="primary" loading={busy} onClick={onEnd}>
          It is back: write the case down
        </Button>
        <Button onClick={onNot}>It shows it still</Button>
      </div>
    </section>
  );
}

function Marks({ marks, handsetId }: { readonly marks: readonly RescueMark[]; readonly handsetId: string }) {
  const [marked, setMarked] = useState<readonly string[]>([]);
  const { act, busy, error, dismiss } = useAct();
  return (
    <>
      <p>So that the next plan knows it:</p>
      <div className={styles.answers}>
        {marks.map((mark) => {
          const words = markWords(mark);
          return (
            <Button
              key={words}
              loading={busy}
              disabled={marked.includes(words)}
              onClick={() =>
                act(
                  () => markAction({ handsetId, mark }),
                  () => setMarked([...marked, words]),
                )
              }
            >
              {words}
              {marked.includes(words) ? ': marked' : ''}
            </Button>
          );
        })}
      </div>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

/** What it was, how that is known, what may be marked, and where to go on. */
export function ClosedCase({
  ended: { repair, rung, cause, by, marks },
  handset,
}: {
  readonly ended: EndedCase;
  readonly handset: RescueCase['handset'];
}) {
  const router = useRouter();
  const done = rung ? RUNG_WORDS[rung] : repair ? REPAIR_WORDS[repair] : null;
  return (
    <section aria-label="The case is closed" className={`${styles.card} ${styles.closed}`}>
      <h2>
        {by === null ? 'Written down: nothing brought it back.' : 'It is back, and the case is written down.'}
      </h2>
      {done ? (
        <p>
          What helped: <b>{done}</b>. {by ? BY[by] : ''}
        </p>
      ) : null}
      {cause ? (
        <p>
          It was most likely this: <b>{CAUSE_WORDS[cause]}</b>. The next case weighs it by one more.
        </p>
      ) : null}
      {handset && marks.length > 0 ? <Marks marks={marks} handsetId={handset.id} /> : null}
      <p>
        {handset ? null : 'It was never here: on the bench its own record helps the next time. '}
        <Button type="primary" onClick={() => router.push(handset ? `/handsets/${handset.id}` : '/')}>
          {handset ? `Go on with ${handset.name}` : 'Go to the bench'}
        </Button>
      </p>
    </section>
  );
}

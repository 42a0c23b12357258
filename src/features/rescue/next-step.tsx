'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useMemo } from 'react';
import type { RescueCase } from '@/contracts/rescue-view';
import type { NextCheck } from '@/core/rescue/belief';
import type { Offered } from '@/core/rescue/repairs';
import { REPAIR_GOALS, REPAIRS } from '@/core/rescue/repairs';
import type { CheckId, RepairId } from '@/core/words/rescue';
import { CAUSE_WORDS, CHECK_WORDS, REPAIR_HOW, REPAIR_WORDS } from '@/core/words/rescue';
import { ErrorNote } from '@/ui/error-note';
import { useKeys } from '@/ui/frame/keys';
import { useAct } from '@/ui/use-act';
import { beginRepairAction } from './actions';
import styles from './rescue.module.css';
import type { Case } from './use-case';
import { mutable } from './use-case';

const answersOf = (check: CheckId) => Object.entries(CHECK_WORDS[check].answers);

/** The question that tells most a minute; keys 1 to 9 answer it. */
export function NextQuestion({ check, now }: { readonly check: NextCheck; readonly now: Case }) {
  const { answer } = now;
  const answers = answersOf(check.check);
  useKeys(
    useMemo(
      () => [
        ...answersOf(check.check).map(([id, words], i) => ({
          key: String(i + 1),
          does: words,
          run: () => answer(check.check, id),
        })),
        { key: '0', does: 'I can’t do that', run: () => answer(check.check, null) },
      ],
      // the case hands out new functions at each turn; the question and what is known are what they hang on
      // eslint-disable-next-line react-hooks/exhaustive-deps
      [check.check, now.state],
    ),
  );
  return (
    <section aria-label="The next question" className={styles.card}>
      <h2>{CHECK_WORDS[check.check].asks}</h2>
      <div className={styles.answers}>
        {answers.map(([id, words], i) => (
          <Button key={id} onClick={() => answer(check.check, id)}>
            <kbd>{i + 1}</kbd> {words}
          </Button>
        ))}
        <Button type="text" onClick={() => answer(check.check, null)}>
          <kbd>0</kbd> I can’t do that
        </Button>
      </div>
      <p className="soft small">
        Asked first because it tells most for its time: {check.bits.toFixed(2)} bits in about {check.minutes}{' '}
        min.
      </p>
    </section>
  );
}

function PlanIt({
  repair,
  one: { handset, roundId },
  now: { state, settled },
}: {
  readonly repair: RepairId;
  readonly one: RescueCase;
  readonly now: Case;
}) {
  const router = useRouter();
  const { act, busy, error, dismiss } = useAct();
  if (handset === null || REPAIR_GOALS[repair] === undefined) return null;
  const input = { handsetId: handset.id, repair, state: mutable(state) };
  return (
    <>
      <Button
        type="primary"
        loading={busy}
        onClick={() =>
          act(
            async () => {
              await settled();
              return beginRepairAction(input);
            },
            (href) => router.push(href),
          )
        }
      >
        {roundId === null ? 'Begin it as a round' : 'Go on in its open round'}
      </Button>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
    </>
  );
}

const restartWords = (restarts: number) =>
  restarts === 0 ? '' : ` with ${restarts === 1 ? 'one restart' : `${restarts} restarts`}`;

/** The smallest repair that can work, what it would mend, and how it went. */
export function NextRepair({
  offered,
  one,
  now,
  onBack,
}: {
  readonly offered: Offered;
  readonly one: RescueCase;
  readonly now: Case;
  readonly onBack: (repair: RepairId) => void;
}) {
  const { repair, chance, minutes, wipes } = offered;
  const mends = now.believed.filter(
    (cause) => one.works[repair].includes(cause.cause) && cause.chance > 0.01,
  );
  const played = mends.filter(({ cause }) => !REPAIRS[repair].mends.includes(cause)).length;
  return (
    <section aria-label="The next repair" className={styles.card}>
      <h2>{REPAIR_WORDS[repair]}</h2>
      <p>{REPAIR_HOW[repair]}</p>
      {wipes ? (
        <p className="bad">
          <b>This erases everything on the handset.</b> Nothing that keeps the data is left to try: what lies
          in no backup is gone for good.
        </p>
      ) : null}
      <p>
        It brings the handset back in <b>{Math.round(chance * 100)} of 100</b> cases like this, in about{' '}
        {minutes} min{restartWords(REPAIRS[repair].restarts)}:{' '}
        {mends.map(({ cause }) => CAUSE_WORDS[cause].toLowerCase()).join('; ')}.
        {played > 0 ? ` Played beforehand on a model of this handset for ${played} of these.` : ''}
      </p>
      {(one.atHand[repair] ?? []).map((name) => (
        <p key={name} className="small">
          At hand: <span className="mono">{name}</span>
        </p>
      ))}
      <div className={styles.answers}>
        <PlanIt repair={repair} one={one} now={now} />
        <Button onClick={() => onBack(repair)}>I did it: it is back</Button>
        <Button onClick={() => now.asBefore(repair)}>I did it: as before</Button>
      </div>
    </section>
  );
}

/** Nothing is left that could work. */
export function NothingLeft({ onClose }: { readonly onClose: () => void }) {
  return (
    <section aria-label="Nothing is left" className={styles.card}>
      <h2>{REPAIR_WORDS.seller}</h2>
      <p>{REPAIR_HOW.seller}</p>
      <p>
        Write nothing more to it until somebody has looked at it: each write can cost what is still readable.
      </p>
      <Button type="primary" onClick={onClose}>
        Write the case down
      </Button>
    </section>
  );
}

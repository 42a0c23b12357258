'use client';
import { Button } from 'antd';
import { lowerFirst } from '@/core/words/sentence';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { HandsetDetail } from '@/contracts/handset-view';
import { shareWithRoot } from '@/core/schedule/continuity';
import { ContinuityBand } from '@/ui/charts/continuity-band';
import { ErrorNote } from '@/ui/error-note';
import { useKeys } from '@/ui/frame/keys';
import { useCurrentHandset } from '@/ui/frame/shelf';
import { useRoomWhy } from '@/ui/frame/why';
import { NextStrip } from '@/ui/next-strip';
import { ROOT_WORDS, StateMark } from '@/ui/state-mark';
import { useAct } from '@/ui/use-act';
import { OTHER_SLOT_WORDS, wayBackStepWords, wayBackWords } from '@/core/words/way-back';
import { readFactsAction } from './actions';
import { BeforeWipe } from './before-wipe';
import styles from './handset.module.css';
import { PARTS } from './parts';
import type { Part } from './parts';
import { OwnHandset } from './own-handset';
import { OwnWays } from './own-ways';
import { Passport } from './passport';
import { PasteFacts } from './paste-facts';
import { Records } from './records';
import { SlotsAndImages } from './slots-and-images';
import { WhatFits } from './what-fits';
import { readinessWords } from '@/core/words/readiness';
import { rootWords } from '@/core/words/root';
import { NEXT_BUTTONS, nextWords, waitingWords } from '@/core/words/schedule';

interface Props {
  readonly handset: HandsetDetail;
  readonly part: Part;
  readonly now: number;
}

/** One handset: what comes next and the way back on top, then what is known of it, part by part. */
export function HandsetRoom({ handset, part, now }: Props) {
  const router = useRouter();
  useCurrentHandset(handset.id);
  const [pasting, setPasting] = useState(false);
  const { act, busy, error, dismiss } = useAct();
  const start = useMemo(
    () => () => {
      if (handset.next.goes === 'round') return router.push(`/rounds/${handset.roundId}`);
      if (handset.next.goes === 'contradiction') return router.push(`/handsets/${handset.id}?part=passport`);
      if (handset.next.goes === 'calendar') return router.push('/calendar');
      if (handset.next.goes === 'before-wipe') return router.push(`/handsets/${handset.id}?part=wipe`);
      if (handset.next.goes === 'handset') return setPasting(true);
      router.push(`/rounds/new?handset=${handset.id}`);
    },
    [handset, router],
  );
  useKeys(
    useMemo(
      () => [
        { key: 'Enter', does: 'do what comes next', run: start },
        { key: 'p', does: 'paste what it printed', run: () => setPasting(true) },
      ],
      [start],
    ),
  );
  useRoomWhy(useMemo(() => <HandsetWhy handset={handset} />, [handset]));
  const share = shareWithRoot(handset.spans);
  return (
    <div className={styles.room}>
      <div className={styles.head}>
        <StateMark state={handset.root} size={30} />
        <div>
          <h1>{handset.name}</h1>
          <span className="soft">
            {handset.model} · <span className="mono">{handset.build ?? 'build not known'}</span> ·{' '}
            {ROOT_WORDS[handset.root]}
            {!share || handset.root === 'unknown'
              ? ''
              : `, and it was there ${Math.round(share * 100)} % of its days`}
          </span>
        </div>
        <div className={styles.actions}>
          {handset.link === 'stand-in' ? (
            <Button loading={busy} onClick={() => act(() => readFactsAction(handset.id))}>
              Read it over the link
            </Button>
          ) : null}
          <Button onClick={() => setPasting(true)}>Paste what it printed</Button>
          <Button onClick={() => router.push(`/rounds/new?handset=${handset.id}`)}>Compare the ways</Button>
          <Button onClick={() => router.push(`/rescue?handset=${handset.id}`)}>Something is wrong</Button>
        </div>
      </div>
      {handset.link === 'hand' ? <OwnHandset handset={handset} act={act} busy={busy} /> : null}
      <NextStrip
        action={
          <Button type="primary" onClick={start} loading={busy}>
            {handset.next.goes === 'handset' ? 'Paste what it printed' : NEXT_BUTTONS[handset.next.says.code]}
          </Button>
        }
      >
        {nextWords(handset.next.says)}
        {handset.next.meanwhile ? (
          <span className="wait"> {waitingWords(handset.next.meanwhile)}</span>
        ) : null}
      </NextStrip>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <ContinuityBand
        spans={handset.spans}
        builds={handset.builds}
        begun={handset.begun}
        waiting={handset.waiting}
        now={now}
        width={1100}
        axis
        label={`${handset.name}: root over the last ten months`}
      />
      <WayBackStrip handset={handset} />
      <nav className={styles.parts} aria-label="Parts of this room">
        {PARTS.map((one) => (
          <Link
            key={one}
            href={`/handsets/${handset.id}?part=${one}`}
            scroll={false}
            aria-current={one === part ? 'page' : undefined}
          >
            {PART_WORDS[one]}
            <PartNote handset={handset} part={one} />
          </Link>
        ))}
      </nav>
      {part === 'passport' ? <Passport handset={handset} now={now} /> : null}
      {part === 'slots' ? <SlotsAndImages handset={handset} now={now} /> : null}
      {part === 'ways' ? <OwnWays handset={handset} /> : null}
      {part === 'fits' ? <WhatFits handset={handset} /> : null}
      {part === 'wipe' ? <BeforeWipe handset={handset} now={now} /> : null}
      {part === 'records' ? <Records handset={handset} now={now} /> : null}
      <PasteFacts handsetId={handset.id} open={pasting} onClose={() => setPasting(false)} />
    </div>
  );
}

const PART_WORDS: Readonly<Record<Part, string>> = {
  passport: 'Passport',
  slots: 'Slots and images',
  ways: 'Its own ways',
  fits: 'What fits',
  wipe: 'Before a wipe',
  records: 'Records',
};

/** What stands in a part, in a word or two, where it needs somebody. */
function PartNote({ handset, part }: { handset: HandsetDetail; part: Part }) {
  const count = (n: number, word: string) => (n === 0 ? null : `${n} ${word}`);
  const open = handset.contradictions.length;
  const stale = handset.facts.filter((fact) => fact.stale).length;
  const differing = handset.slots.filter(
    (cell) => cell.verdict === 'differs' || cell.verdict === 'unknown',
  ).length;
  const note =
    part === 'passport'
      ? (count(open, open === 1 ? 'contradiction' : 'contradictions') ?? count(stale, 'stale'))
      : part === 'slots'
        ? count(differing, 'to look at')
        : part === 'wipe'
          ? handset.known.unlocked === true
            ? null
            : handset.feasibility.verdict
          : null;
  return note === null ? null : (
    <span className={open > 0 || part !== 'passport' ? 'bad small' : 'wait small'}>{note}</span>
  );
}

/**
 * Always in sight: whether this handset could be brought back to stock at this minute, and whether its next
 * build can be taken.
 */
function WayBackStrip({ handset }: { handset: HandsetDetail }) {
  const { wayBack, readiness } = handset;
  return (
    <div className={styles.strip}>
      <div>
        <h3>Way back to stock, right now</h3>
        <p className={wayBack.open ? '' : 'bad'}>
          <b>{wayBack.open ? '✓ open' : '✗ not open'}</b>: {wayBackWords(wayBack.says)}
          {wayBack.steps.length > 0
            ? ` (${wayBack.steps.map((step) => lowerFirst(wayBackStepWords(step))).join(', ')})`
            : ''}
          .
        </p>
        {wayBack.missing.length > 0 ? (
          <p className="small">
            <Link href="/firmware">Take it out of the package of {handset.build ?? 'its build'}</Link>, or
            read it back from a slot that still has it.
          </p>
        ) : null}
        {wayBack.otherSlot ? <p className="soft small">{OTHER_SLOT_WORDS[wayBack.otherSlot]}</p> : null}
      </div>
      <div>
        <h3>Next build</h3>
        <p className={readiness.verdict === 'hold' ? 'wait' : ''}>
          <b>{READY_WORDS[readiness.verdict]}</b>: {readinessWords(readiness)}
        </p>
      </div>
    </div>
  );
}

const READY_WORDS: Readonly<Record<HandsetDetail['readiness']['verdict'], string>> = {
  go: '✓ go',
  hold: '‖ hold',
  "can't tell": '? can’t tell',
  'up to date': '✓ up to date',
};

function HandsetWhy({ handset }: { handset: HandsetDetail }) {
  return (
    <>
      <h2>Where root sits</h2>
      <p style={{ margin: '4px 0 12px' }}>
        {handset.rootPartition.partition ?? 'Not known'}. {rootWords(handset.rootPartition.because)}{' '}
        {handset.rootPartition.sure ? '' : 'The package decides.'}
      </p>
      <h2>What comes next</h2>
      <p style={{ margin: '4px 0 12px' }}>{nextWords(handset.next.says)}</p>
      <h2>Way back</h2>
      <ol style={{ margin: '4px 0 0', paddingLeft: 20 }}>
        {handset.wayBack.steps.map((step) => (
          <li key={wayBackStepWords(step)}>
            {wayBackStepWords(step)}, about {step.minutes < 1 ? 'half a minute' : `${step.minutes} min`}
          </li>
        ))}
      </ol>
      {handset.wayBack.steps.length === 0 ? <p>{wayBackWords(handset.wayBack.says)}.</p> : null}
    </>
  );
}

'use client';
import { Button } from 'antd';
import type { DebriefView, OwnPractice, PracticeView, TroubleView } from '@/contracts/practice-view';
import type { DebriefStep, StepVerdict } from '@/core/practice/debrief';
import { UNTRUE_WORDS } from '@/core/practice/true-state';
import { HIDDEN_FAULT_WORDS } from '@/core/words/hidden-faults';
import { CAUSE_WORDS, REPAIR_WORDS } from '@/core/words/rescue';
import { SURPRISE_WORDS } from '@/core/words/surprises';
import { Link } from '@/ui/link';
import { NextStrip } from '@/ui/next-strip';
import styles from './practice.module.css';

const VERDICTS: Readonly<Record<StepVerdict, { readonly words: string; readonly tone: string }>> = {
  right: { words: 'right, and shown', tone: '' },
  luck: { words: 'luck', tone: 'wait' },
  wrong: { words: 'went wrong', tone: 'bad' },
  open: { words: 'not done', tone: 'soft' },
};
const SHOWS: Readonly<Record<NonNullable<DebriefStep['wouldShow']>, string>> = {
  'show it': 'To be seen there: ',
  'the check': 'The check that was passed over had shown it.',
  'the held restart': 'The round held restarts back here: each offer is to be put off.',
};
const LUCK: Readonly<Record<NonNullable<DebriefStep['luck']>, string>> = {
  'only said': 'Only said; it happened to be so.',
  'past a check': 'Done past a check.',
};
const minutes = (value: number) => (value < 1 ? `${Math.round(value * 60)} s` : `${value.toFixed(1)} min`);

/** Each round of this world against its plan. */
export function Debriefs({ view, own }: { readonly view: PracticeView; readonly own: OwnPractice }) {
  const { debriefs, trouble, surprises } = view;
  return (
    <>
      <Next own={own} view={view} />
      {trouble ? <Trouble trouble={trouble} /> : null}
      {surprises ? <Surprises surprises={surprises} /> : null}
      {debriefs.map((one) => (
        <OneRound key={one.roundId} one={one} home={own.home} />
      ))}
    </>
  );
}

/** Where it goes on. */
function Next({ view, own }: { readonly view: PracticeView; readonly own: OwnPractice }) {
  const { debriefs, trouble, begin } = view;
  const open = debriefs.find(({ state }) => state === 'open');
  const isOver = open === undefined && (debriefs.length > 0 || (trouble?.closed.length ?? 0) > 0);
  const button = open ? (
    <Link href={`/rounds/${open.roundId}`}>
      <Button type="primary">Go on with its round</Button>
    </Link>
  ) : isOver ? (
    <Button type="primary" href={`${own.home}/practice`}>
      Choose the next scene
    </Button>
  ) : (
    <Link href={begin}>
      <Button type="primary">To its beginning</Button>
    </Link>
  );
  return (
    <NextStrip action={button}>
      <b>{own.title}</b>{' '}
      {open
        ? 'Each step so far is held against the plan.'
        : isOver
          ? 'It is over; this is how it went.'
          : 'Nothing was done here yet.'}
    </NextStrip>
  );
}

/** What came over the handset, as far as it has come. */
function Surprises({ surprises: { came, left } }: Pick<PracticeView, 'surprises'> & { surprises: object }) {
  return (
    <section aria-label="What came over it">
      <h2>What came over it</h2>
      {came.length > 0 ? (
        <ul>
          {came.map((id) => (
            <li key={id}>{SURPRISE_WORDS[id]}.</li>
          ))}
        </ul>
      ) : null}
      <p className="soft">
        {came.length === 0 ? 'Nothing yet. ' : ''}
        {left === 0 ? '' : `${left} of ${came.length + left} did not come, or may come yet.`}
      </p>
    </section>
  );
}

/** What the trouble was, once its case is closed. */
function Trouble({ trouble: { closed, was, wipes } }: { readonly trouble: TroubleView }) {
  return (
    <section aria-label="What the trouble was">
      <h2>What it was</h2>
      {was === null ? (
        <p className="soft">Close its case in the Rescue room: then this page says what was put into it.</p>
      ) : (
        <p>
          <b>{HIDDEN_FAULT_WORDS[was.fault]}.</b>{' '}
          {was.named ? 'That is what you closed its case with.' : 'You closed its case with another cause.'}{' '}
          {wipes > 0 ? <b className="bad">Its data was erased.</b> : 'Its data is there.'}{' '}
          {was.least
            ? `The smallest repair for it: “${REPAIR_WORDS[was.least.repair]}”, about ${was.least.minutes} min.`
            : ''}
        </p>
      )}
      {closed.map(({ at, minutes: took, cause, helped, asked, tried }) => (
        <p key={at} className="small">
          Closed{took === null ? '' : ` after ${took} min`}: {cause ? CAUSE_WORDS[cause] : 'no cause named'}
          {helped.repair ? `, by “${REPAIR_WORDS[helped.repair]}”` : ''}.
          {asked === null ? '' : ` ${asked === 1 ? 'One question was' : `${asked} questions were`} answered.`}
          {tried.length > 0
            ? ` Done in vain before: ${tried.map((repair) => `“${REPAIR_WORDS[repair]}”`).join(', ')}.`
            : ''}
        </p>
      ))}
    </section>
  );
}

function OneRound({ one, home }: { readonly one: DebriefView; readonly home: string }) {
  return (
    <section aria-label={`How ${one.title} went`}>
      <h2>
        <Link href={`/rounds/${one.roundId}`}>{one.title}</Link>, {one.lane.toLowerCase()}
      </h2>
      <p>
        <b>
          {one.right} right, {one.luck} luck, {one.wrong} wrong.
        </b>{' '}
        {one.hinted > 0
          ? `A hint was asked for at ${one.hinted === 1 ? 'one step' : `${one.hinted} steps`}. `
          : ''}
        {minutes(one.minutes)} of work, where the plan takes {minutes(one.planned)} at most.
        {one.wipes > 0 ? (
          <b className="bad">
            {' '}
            Everything on it was erased {one.wipes === 1 ? 'once' : `${one.wipes} times`} that the plan did
            not.
          </b>
        ) : (
          ' No data was lost that the plan keeps.'
        )}
        {one.rootless > 0 ? ` Root was away for ${minutes(one.rootless)} that the plan does not have.` : ''}
        {one.undone > 0
          ? ` The stock image was put back ${one.undone === 1 ? 'once' : `${one.undone} times`}.`
          : ''}
        {one.anew > 0 ? ` The way was planned anew ${one.anew === 1 ? 'once' : `${one.anew} times`}.` : ''}
      </p>
      <table className="ledger">
        <thead>
          <tr>
            <th>Step</th>
            <th style={{ width: 130 }}>It was</th>
            <th style={{ width: 150 }}>Took, of at most</th>
            <th>What would have shown it</th>
          </tr>
        </thead>
        <tbody>
          {one.steps.map((step, i) => (
            <tr key={`${i} ${step.key}`}>
              <td>{one.texts[i]!.title}</td>
              <td className={VERDICTS[step.verdict].tone}>
                {VERDICTS[step.verdict].words}
                {step.hinted ? <span className="soft">, with a hint</span> : null}
              </td>
              <td className="mono small">
                {step.minutes === null ? '' : `${minutes(step.minutes)} of ${minutes(step.planned)}`}
              </td>
              <td className="small">
                {[...new Set(step.wrong)].map((what) => (
                  <div key={what}>
                    {what}
                    {timesOf(step.wrong, what)}
                  </div>
                ))}
                {step.untrue.map((what) => (
                  <div key={what} className="bad">
                    Said to be done: {UNTRUE_WORDS[what].toLowerCase()}
                  </div>
                ))}
                {step.luck ? `${LUCK[step.luck]} ` : ''}
                {step.wouldShow
                  ? `${SHOWS[step.wouldShow]}${step.wouldShow === 'show it' ? one.texts[i]!.see : ''}`
                  : ''}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Best ways={one.ways} />
      <p className={styles.after}>
        {one.state === 'open'
          ? 'This round is open still.'
          : one.state === 'closed'
            ? 'It was signed off.'
            : 'It was given up.'}
      </p>
      <Button href={`${home}/practice?${new URLSearchParams(one.again).toString()}`}>
        Go this way with a handset of your own
      </Button>
    </section>
  );
}

const timesOf = (all: readonly string[], what: string) => {
  const times = all.filter((one) => one === what).length;
  return times === 1 ? '' : ` (${times} times)`;
};

/** The way that was the best when the round began: no more wipes than any, then the quickest. */
function Best({ ways }: Pick<DebriefView, 'ways'>) {
  const [best, ...others] = [...ways].sort(
    (one, two) => one.wipes - two.wipes || one.minutes[1] - two.minutes[1],
  );
  if (best === undefined) return null;
  const said = ({ title, minutes: [least, most], wipes, chosen }: DebriefView['ways'][number]) =>
    `${title}, ${Math.round(least)} to ${Math.round(most)} min${wipes > 0 ? ', data erased' : ''}${chosen ? ' (yours)' : ''}`;
  return (
    <p className="soft small">
      The best way from where it began: {said(best)}.
      {others.length > 0 ? ` There were others: ${others.map(said).join('; ')}.` : ''}
    </p>
  );
}

'use client';
import { Button, Input, Select } from 'antd';
import { Link } from '@/ui/link';
import { useRouter } from 'next/navigation';
import { useRef, useTransition } from 'react';
import type { LogFilter, LogPage, LogRound } from '@/contracts/log-view';
import { againWords } from '@/contracts/round-view';
import { LOG_PAGE, LOG_STATES } from '@/contracts/log-view';
import { stageTimes } from '@/core/rounds/stage-time';
import { EmptyNote } from '@/ui/empty-note';
import { EvidenceList } from '@/ui/evidence-list';
import { formatDay, formatSeconds, formatTime } from '@/ui/format';
import { LogFiles } from './log-files';
import { Notes } from './notes';
import styles from './log.module.css';
import { StageBars } from './stage-bars';

const STATE_WORDS = { open: 'open', closed: 'closed', 'given-up': 'given up' } as const;
const ACTOR_WORDS: Readonly<Record<string, string>> = {
  link: 'over the link',
  hand: 'by hand',
  computer: 'here',
};

/** Every round with its durations and what was seen; found by any word of it. */
export function LogRoom({ log }: { readonly log: LogPage }) {
  const { rounds, filter, count } = log;
  const { look, busy } = useLook(log);
  if (log.all === 0) {
    return (
      <>
        <EmptyNote
          title="The log is empty"
          action={
            <Link href="/">
              <Button type="primary">To the bench</Button>
            </Link>
          }
        >
          Every round is written down here: when, how long each step took, and what was seen.
        </EmptyNote>
        <div className={styles.room}>
          <LogFiles empty />
        </div>
      </>
    );
  }
  const choices = (values: readonly string[], all: string) => [
    { value: '', label: all },
    ...values.map((value) => ({ value, label: value })),
  ];
  return (
    <div className={styles.room}>
      <h1>
        {count} {count === 1 ? 'round' : 'rounds'}, {formatSeconds(log.seconds)} of work
      </h1>
      <div className={styles.filters}>
        <Input
          aria-label="Find in the log"
          placeholder="Find a word: a build, a note, what was seen"
          allowClear
          style={{ width: 320 }}
          defaultValue={filter.text}
          onChange={(event) => look({ text: event.target.value })}
        />
        <Select
          aria-label="Handset"
          style={{ width: 200 }}
          value={filter.handset ?? ''}
          onChange={(value) => look({ handset: value || null })}
          options={choices(log.handsets, 'All handsets')}
        />
        <Select
          aria-label="Kind of round"
          style={{ width: 170 }}
          value={filter.title ?? ''}
          onChange={(value) => look({ title: value || null })}
          options={choices(log.titles, 'Every kind')}
        />
        <Select
          aria-label="How it ended"
          style={{ width: 150 }}
          value={filter.state ?? ''}
          onChange={(value) => look({ state: LOG_STATES.find((state) => state === value) ?? null })}
          options={[
            { value: '', label: 'However it ended' },
            ...LOG_STATES.map((value) => ({ value, label: STATE_WORDS[value] })),
          ]}
        />
      </div>
      {filter.text === '' && count > 0 ? <Together log={log} /> : null}
      {count === 0 ? <p className="soft">No round has all of this in it.</p> : null}
      {rounds.map((round) => (
        <Round key={round.id} round={round} longest={log.longestSeconds} />
      ))}
      {rounds.length < count ? (
        <div className={styles.more}>
          <span className="soft">
            {rounds.length} of {count} rounds
          </span>
          <Button loading={busy} onClick={() => look({}, rounds.length + LOG_PAGE)}>
            Show {Math.min(LOG_PAGE, count - rounds.length)} more
          </Button>
        </div>
      ) : null}
      <LogFiles empty={false} />
    </div>
  );
}

/** Long enough that typing on asks once. */
const TYPING_MS = 250;

/** Looks at other rounds; what is looked at stands in the address, so that it can be gone back to. */
function useLook({ filter }: LogPage) {
  const router = useRouter();
  const [busy, start] = useTransition();
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const wanted = useRef(filter);
  const look = (change: Partial<LogFilter>, most = LOG_PAGE) => {
    wanted.current = { ...wanted.current, ...change };
    if (timer.current) clearTimeout(timer.current);
    timer.current = setTimeout(
      () => {
        const said = Object.entries({
          ...wanted.current,
          most: most === LOG_PAGE ? null : String(most),
        }).filter(([, value]) => value);
        start(() =>
          router.replace(`/log?${new URLSearchParams(said as [string, string][])}`, { scroll: false }),
        );
      },
      change.text === undefined ? 0 : TYPING_MS,
    );
  };
  return { look, busy };
}

const DAY_MS = 86_400_000;

/** The rounds together: time by stage and by lane, and how long each handset held root. */
function Together({ log: { stages, lanes, held, seconds } }: { readonly log: LogPage }) {
  return (
    <>
      <StageBars stages={stages} longestSeconds={seconds} />
      <div className={styles.together}>
        <table className="ledger">
          <thead>
            <tr>
              <th>Lane</th>
              <th className="num">Rounds</th>
              <th className="num">Time each</th>
              <th className="num">Without root</th>
            </tr>
          </thead>
          <tbody>
            {lanes.map((one) => (
              <tr key={one.lane}>
                <td>{one.lane}</td>
                <td className="num">{one.rounds}</td>
                <td className="num">{formatSeconds(one.seconds)}</td>
                <td className="num">{formatSeconds(one.minutesWithoutRoot * 60)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <table className="ledger">
          <thead>
            <tr>
              <th>Handset</th>
              <th className="num">Days with root</th>
              <th className="num">Longest run</th>
              <th className="num">Lost or broken</th>
            </tr>
          </thead>
          <tbody>
            {held.map((one) => (
              <tr key={one.handset}>
                <td>{one.handset}</td>
                <td className="num">{one.share === null ? '–' : `${Math.round(one.share * 100)} %`}</td>
                <td className="num">
                  {one.longestMs === 0 ? '–' : `${Math.floor(one.longestMs / DAY_MS)} days`}
                </td>
                <td className="num">{formatSeconds(one.minutesWithoutRoot * 60)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function Round({ round, longest }: { round: LogRound; longest: number }) {
  return (
    <article className={styles.round}>
      <div className={styles.head}>
        <h2>
          <Link href={`/rounds/${round.id}`}>
            {round.title}, {round.handset}
          </Link>
        </h2>
        <span className="soft">
          {formatDay(round.openedAt)} ·{' '}
          {round.reached === 'no' ? 'closed, not reached' : STATE_WORDS[round.state]} ·{' '}
          {formatSeconds(round.seconds)}
          {round.minutesWithoutRoot >= 1
            ? ` · ${formatSeconds(round.minutesWithoutRoot * 60)} without root`
            : ''}
        </span>
      </div>
      <StageBars stages={stageTimes(round.steps)} longestSeconds={longest} />
      {round.overrides.map(({ check, reason }) => (
        <p key={check} className="wait small">
          Overridden: {check}, “{reason}”
        </p>
      ))}
      {round.again ? (
        <p className={round.again.answer === 'no' ? 'wait small' : 'soft small'}>{againWords(round.again)}</p>
      ) : null}
      <Notes notes={round.notes} roundId={round.id} stepId={null} />
      <details>
        <summary className="small">Steps, times and what was seen</summary>
        <table className="ledger">
          <thead>
            <tr>
              <th>Stage</th>
              <th>Step</th>
              <th>Began</th>
              <th className="num">Took</th>
              <th className="num">Planned</th>
              <th>Done</th>
              <th>Seen</th>
            </tr>
          </thead>
          <tbody>
            {round.steps.map((step) => (
              <tr key={step.id}>
                <td>{step.stage}</td>
                <td>{step.title}</td>
                <td className="small soft">{step.startedAt === null ? '' : formatTime(step.startedAt)}</td>
                <td className="num">{step.seconds === null ? '' : formatSeconds(step.seconds)}</td>
                <td className="num soft">{formatSeconds(step.plannedSeconds)}</td>
                <td>{step.state === 'done' ? (ACTOR_WORDS[step.actor ?? ''] ?? '') : step.state}</td>
                <td>
                  <EvidenceList evidence={step.evidence} />
                  <Notes notes={step.notes} roundId={round.id} stepId={step.id} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </article>
  );
}

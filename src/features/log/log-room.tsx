'use client';
import { Button, Select } from 'antd';
import Link from 'next/link';
import { useState } from 'react';
import type { LogRound } from '@/contracts/log-view';
import { EmptyNote } from '@/ui/empty-note';
import { EvidenceList } from '@/ui/evidence-list';
import { formatDay, formatSeconds, formatTime } from '@/ui/format';
import styles from './log.module.css';
import { StageBars } from './stage-bars';

const STATE_WORDS = { open: 'open', closed: 'closed', 'given-up': 'given up' } as const;
const ACTOR_WORDS: Readonly<Record<string, string>> = { link: 'over the link', hand: 'by hand', computer: 'here' };

/** Every round with its durations and what was seen. */
export function LogRoom({ rounds }: { rounds: readonly LogRound[] }) {
  const [handset, setHandset] = useState<string | null>(null);
  if (rounds.length === 0) {
    return (
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
    );
  }
  const shown = rounds.filter((round) => handset === null || round.handset === handset);
  const longest = Math.max(...rounds.map((round) => round.seconds));
  const names = [...new Set(rounds.map((round) => round.handset))];
  return (
    <div className={styles.room}>
      <h1>
        {shown.length} {shown.length === 1 ? 'round' : 'rounds'}, {formatSeconds(shown.reduce((sum, round) => sum + round.seconds, 0))} of work
      </h1>
      <div className={styles.filters}>
        <Select
          aria-label="Handset"
          style={{ width: 240 }}
          value={handset ?? ''}
          onChange={(value) => setHandset(value === '' ? null : value)}
          options={[{ value: '', label: 'All handsets' }, ...names.map((name) => ({ value: name, label: name }))]}
        />
      </div>
      {shown.map((round) => (
        <Round key={round.id} round={round} longest={longest} />
      ))}
    </div>
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
          {formatDay(round.openedAt)} · {STATE_WORDS[round.state]} · {formatSeconds(round.seconds)}
        </span>
      </div>
      <StageBars round={round} longestSeconds={longest} />
      <details>
        <summary className="small">Steps, times and what was seen</summary>
        <table className="ledger">
          <thead>
            <tr>
              <th>Stage</th>
              <th>Step</th>
              <th className="num">Took</th>
              <th className="num">Expected</th>
              <th>Done</th>
              <th>Seen</th>
            </tr>
          </thead>
          <tbody>
            {round.steps.map((step) => (
              <tr key={step.key}>
                <td>{step.stage}</td>
                <td title={step.startedAt === null ? undefined : formatTime(step.startedAt)}>{step.title}</td>
                <td className="num">{step.seconds === null ? '' : formatSeconds(step.seconds)}</td>
                <td className="num soft">{formatSeconds(step.expectedSeconds)}</td>
                <td>{step.state === 'done' ? (ACTOR_WORDS[step.actor ?? ''] ?? '') : step.state}</td>
                <td>
                  <EvidenceList evidence={step.evidence} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </article>
  );
}

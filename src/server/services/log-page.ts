import 'server-only';
import type { LogFilter, LogPage } from '@/contracts/log-view';
import { stageTimes } from '@/core/rounds/stage-time';
import { filterRounds, timeByLane } from './log-filter';
import { logView } from './log-service';

/** What the Log room shows: the newest rounds that a filter leaves, and what all of them come to together. */
export async function logPage(filter: LogFilter, most: number): Promise<LogPage> {
  const { rounds, held } = await logView();
  const found = filterRounds(rounds, filter);
  const named = (of: (round: (typeof rounds)[number]) => string) => [...new Set(rounds.map(of))];
  return {
    filter,
    rounds: found.slice(0, most),
    count: found.length,
    all: rounds.length,
    seconds: found.reduce((sum, round) => sum + round.seconds, 0),
    longestSeconds: rounds.reduce((longest, round) => Math.max(longest, round.seconds), 0),
    stages: stageTimes(found.flatMap((round) => round.steps)),
    lanes: timeByLane(found),
    held: filter.handset === null ? held : held.filter((one) => one.handset === filter.handset),
    handsets: named((round) => round.handset),
    titles: named((round) => round.title),
  };
}

import 'server-only';
import type { LaneTime, LogFilter, LogRound } from '@/contracts/log-view';

/* Which rounds are shown, and what they come to together. Pure. */

const textOf = (round: LogRound) =>
  [
    round.title,
    round.handset,
    round.lane,
    ...round.notes.map((note) => note.text),
    round.again?.note ?? '',
    ...round.overrides.map(({ reason }) => reason),
    ...round.steps.flatMap((step) => [
      step.title,
      ...step.evidence.map(({ what }) => what),
      ...step.notes.map((note) => note.text),
    ]),
  ]
    .join('\n')
    .toLowerCase();

/** Every word has to be found somewhere in the round. */
export function filterRounds(
  rounds: readonly LogRound[],
  { text, handset, title, state }: LogFilter,
): readonly LogRound[] {
  const words = text
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  return rounds.filter(
    (round) =>
      (handset === null || round.handset === handset) &&
      (title === null || round.title === title) &&
      (state === null || round.state === state) &&
      (words.length === 0 || words.every((word) => textOf(round).includes(word))),
  );
}

/** What rounds took by lane, the one with most of them first. */
export function timeByLane(rounds: readonly LogRound[]): readonly LaneTime[] {
  const lanes = new Map<string, LogRound[]>();
  for (const round of rounds) lanes.set(round.lane, [...(lanes.get(round.lane) ?? []), round]);
  const mean = (list: readonly LogRound[], of: (round: LogRound) => number) =>
    list.reduce((sum, round) => sum + of(round), 0) / list.length;
  return [...lanes]
    .map(([lane, list]) => ({
      lane,
      rounds: list.length,
      seconds: mean(list, (round) => round.seconds),
      minutesWithoutRoot: mean(list, (round) => round.minutesWithoutRoot),
    }))
    .sort((a, b) => b.rounds - a.rounds || a.seconds - b.seconds);
}

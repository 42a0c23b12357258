import type { FitVerdict } from '@/core/fit/fit-package';
import { fitWords } from '@/core/words/fit';
import type { HandsetFit } from '@/contracts/firmware-view';

const RANK: Readonly<Record<FitVerdict, number>> = {
  exact: 0,
  newer: 1,
  older: 2,
  'other variant': 3,
  "can't tell": 4,
  'other handset': 5,
};

/** The handset a package speaks to most. */
export const closestFit = (fits: readonly HandsetFit[]): HandsetFit | null => byCloseness(fits)[0] ?? null;

export function byCloseness(fits: readonly HandsetFit[]): HandsetFit[] {
  return [...fits].sort((a, b) => RANK[a.fit.verdict] - RANK[b.fit.verdict]);
}

/** The verdict in one sentence, and what follows from it. */
export function verdictWords({ name, fit }: HandsetFit): {
  readonly title: string;
  readonly follows: string;
} {
  const none = `Nothing from it will be written to ${name}.`;
  switch (fit.verdict) {
    case 'exact':
      return {
        title: `Exactly the build installed on ${name}.`,
        follows: 'Its image belongs to this handset as it is now.',
      };
    case 'newer':
      return {
        title: `Newer than what ${name} runs.`,
        follows: `${none} Its system must be on the handset first.`,
      };
    case 'older':
      return { title: `Older than what ${name} runs.`, follows: none };
    case 'other variant':
      return {
        title: `Not ${name}’s package: it is its look-alike’s.`,
        follows: `${none} ${fitWords(fit.reason)}`,
      };
    case 'other handset':
      return { title: 'For none of your handsets.', follows: fitWords(fit.reason) };
    case "can't tell":
      return { title: `Whether it fits ${name} can’t be told.`, follows: fitWords(fit.reason) };
  }
}

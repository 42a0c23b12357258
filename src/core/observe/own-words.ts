import type { PrintedLine } from './clean-lines';
import type { Fault, ObservedStep, ObserveExpectation } from './expectation';
import type { Found } from './found';
import { held, NOTHING } from './found';

/*
 * Lines that a person said of a model's own tool: what it prints when something is done, and when it refuses.
 * A whole line counts, whatever its case; a word inside a longer line does not.
 */

const plain = (text: string) => text.trim().replace(/\s+/g, ' ').toLowerCase();
const isOneOf = (text: string, words: readonly string[] | undefined) =>
  words?.some((word) => plain(word) === plain(text)) === true;

const SENDS: readonly ObservedStep[] = ['write', 'erase', 'push', 'sideload'];

/** A done line proves a transfer at a step that sends one image, and only after no refusal below it. */
export function ownWordsFound(
  lines: readonly PrintedLine[],
  { step, words, parts = [] }: ObserveExpectation,
): Found {
  if (!SENDS.includes(step) || parts.length > 0) return NOTHING;
  const said = lines.filter(({ text, typed }) => !typed && isOneOf(text, words?.done));
  const last = said.at(-1);
  return last && !ownFaults(lines, { words }).some(({ line }) => line > last.n)
    ? held('transfer', last.text, last.n, undefined, true)
    : NOTHING;
}

export const ownFaults = (
  lines: readonly PrintedLine[],
  { words }: Pick<ObserveExpectation, 'words'>,
): Fault[] =>
  lines.flatMap(({ text, typed, n }) =>
    !typed && isOneOf(text, words?.refused) ? [{ id: 'refused' as const, line: n }] : [],
  );

import { parseObserveExpectation } from '@/contracts/observe-input';
import { observe as hold } from '@/core/observe/hold';
import { parseArguments } from './arguments';
import { readJson, readText } from './files';
import type { Verb } from './verb';

/** `observe EXPECT.json TEXT`: what a handset or a tool printed, held against what a step expects. */
export const observe: Verb = async (args) => {
  const { positionals } = parseArguments(args, [], [2, 2]);
  const [expectation, text] = positionals as [string, string];
  return hold(await parseObserveExpectation(await readJson(expectation)), await readText(text));
};

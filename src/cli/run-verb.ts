import type { ErrorData } from '@/core/errors';
import { EternoError, exitCodeFor, toEternoError } from '@/core/errors';
import { compare, facts, inspect, list, sparse, unsparse } from './image-verbs';
import { kit, patch, unpatch } from './kit-verbs';
import { standIn, startOnce, variables, write } from './link-verbs';
import { pack } from './pack-verb';
import { fit, identify, repack, take } from './package-verbs';
import { plan } from './plan-verb';
import type { Verb, VerbContext } from './verb';

const VERBS: Readonly<Record<string, Verb>> = {
  identify,
  fit,
  take,
  inspect,
  list,
  compare,
  patch,
  unpatch,
  kit,
  pack,
  repack,
  sparse,
  unsparse,
  facts,
  plan,
  variables,
  write,
  'start-once': startOnce,
  'stand-in': standIn,
};

export interface Answer {
  readonly exit: number;
  readonly out: object | null;
  readonly error: ErrorData | null;
}

/** Runs one command; never throws. */
export async function runVerb(argv: readonly string[], context: VerbContext): Promise<Answer> {
  try {
    const [name, ...rest] = argv;
    const verb = name !== undefined && Object.hasOwn(VERBS, name) ? VERBS[name] : undefined;
    if (!verb) throw new EternoError('usage', `verbs: ${[...Object.keys(VERBS), 'batch'].join(', ')}`);
    return { exit: 0, out: await verb(rest, context), error: null };
  } catch (thrown) {
    const error = toEternoError(thrown);
    return { exit: exitCodeFor(error.code), out: null, error: error.toData() };
  }
}

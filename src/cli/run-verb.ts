import type { ErrorData } from '@/core/errors';
import { EternoError, exitCodeFor, toEternoError } from '@/core/errors';
import { compare, facts, inspect, list, sparse, unsparse } from './image-verbs';
import { fragment, kit, patch, unpatch } from './kit-verbs';
import { downloadPage, standIn, startOnce, variables, write } from './link-verbs';
import { judge, judgeWrite } from './judge-verbs';
import { observe } from './observe-verb';
import { pack } from './pack-verb';
import { fit, identify, repack, set, take } from './package-verbs';
import { plan } from './plan-verb';
import { refuseToReplace } from './files';
import type { VerbName } from './help';
import { helpOf, helpOfAll } from './help';
import type { Verb, VerbContext } from './verb';
import { RefusedWith } from './verb';

const VERBS: Readonly<Record<VerbName, Verb>> = {
  identify,
  fit,
  take,
  inspect,
  list,
  compare,
  patch,
  unpatch,
  fragment,
  kit,
  pack,
  repack,
  set,
  sparse,
  unsparse,
  facts,
  observe,
  judge,
  'judge-write': judgeWrite,
  plan,
  variables,
  write,
  'start-once': startOnce,
  'stand-in': standIn,
  'download-page': downloadPage,
};

export interface Answer {
  readonly exit: number;
  readonly out: object | null;
  readonly error: ErrorData | null;
}

const isVerb = (name: string | undefined): name is VerbName =>
  name !== undefined && Object.hasOwn(VERBS, name);

/** Runs one command; never throws. What `help` says comes as `{ help }`, a text for a person. */
export async function runVerb(argv: readonly string[], context: VerbContext): Promise<Answer> {
  try {
    const [name, ...rest] = argv;
    if (name === 'help' || name === '--help')
      return { exit: 0, out: { help: isVerb(rest[0]) ? helpOf(rest[0]) : helpOfAll() }, error: null };
    if (!isVerb(name))
      throw new EternoError(
        'usage',
        `verbs: ${[...Object.keys(VERBS), 'batch'].join(', ')}; help says what they do`,
      );
    if (rest.includes('--help')) return { exit: 0, out: { help: helpOf(name) }, error: null };
    const args = rest.filter((argument) => argument !== '--force');
    const force = args.length < rest.length;
    if (!force) await refuseToReplace(args);
    return { exit: 0, out: await VERBS[name](args, { ...context, force }), error: null };
  } catch (thrown) {
    const error = toEternoError(thrown);
    const out = thrown instanceof RefusedWith ? thrown.out : null;
    return { exit: exitCodeFor(error.code), out, error: error.toData() };
  }
}

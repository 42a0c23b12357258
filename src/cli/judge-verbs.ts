import { parseHandsetInput } from '@/contracts/handset-input';
import { EternoError } from '@/core/errors';
import { judgePatched } from '@/core/judge/judge-patched';
import { readSide } from '@/core/judge/judged-side';
import type { WriteJudgement } from '@/core/judge/judge-write';
import { judgeWrite as decide } from '@/core/judge/judge-write';
import { weighWrite } from '@/core/judge/weigh-write';
import { writeTargetOf } from '@/core/judge/write-target';
import { LIMITS } from '@/core/limits';
import { readKit } from '@/core/kits/read-kit';
import { unwrap } from '@/core/packages/unwrap';
import { pointSeen, pointWords, unexpectedWords } from '@/core/words/judged';
import { WRITE_CHECK_TITLES, writeSawWords } from '@/core/words/write';
import type { FileSource } from '@/platform/node/file-source';
import { pooledPorts } from '@/platform/node/pooled-ports';
import { parseArguments } from './arguments';
import { readJson, withFile, withFiles } from './files';
import { withProofFiles } from './proof-files';
import type { Verb } from './verb';
import { RefusedWith } from './verb';
import { purposeOf } from './write-guard';

const sideOf = async (file: FileSource) => readSide((await unwrap(file, pooledPorts)).source, pooledPorts);

/** `judge PATCHED --stock STOCK [--kit KIT]`: an image patched elsewhere, held against its stock image. */
export const judge: Verb = async (args) => {
  const parsed = parseArguments(args, ['stock', 'kit'], [1, 1]);
  const kitPath = parsed.option('kit');
  const kit =
    kitPath === undefined
      ? null
      : await withFile(kitPath, async (file) => (await readKit(file, pooledPorts)).kit);
  return withFiles([parsed.positionals[0]!, parsed.required('stock')], async ([patched, stock]) => {
    const { lines, unexpected, belongs, times, by, build, changes } = judgePatched(
      await sideOf(stock!),
      await sideOf(patched!),
      kit,
    );
    return {
      belongs,
      times,
      by,
      build,
      checks: lines.map(({ point, ok }) => ({
        check: pointWords(point),
        ok,
        ...(ok === true ? {} : { seen: pointSeen(point) }),
      })),
      changes,
      unexpected: unexpected.map(unexpectedWords),
    };
  });
};

/** A judgement as the command prints it. */
const printedJudgement = ({ verdict, checks }: WriteJudgement) => ({
  verdict,
  checks: checks.map(({ id, holds, saw, overridable }) => ({
    id,
    holds,
    evidence: writeSawWords(saw),
    overridable,
  })),
});

/** `judge-write IMAGE --to HANDSET.json …`: may this be written there; refused is exit 4, with the checks. */
export const judgeWrite: Verb = async (args) => {
  const parsed = parseArguments(
    args,
    ['to', 'partition', 'slot', 'purpose', 'stock', 'kit'],
    [1, LIMITS.packageFiles],
    ['package'],
  );
  if (parsed.positionals.length > 1 && parsed.options('package').length === 0)
    throw new EternoError('usage', 'one image is judged; further files are those of a --package');
  const purpose = purposeOf(parsed.required('purpose'));
  const partition = parsed.required('partition');
  if (!/^[a-z][a-z0-9_]{0,39}$/.test(partition))
    throw new EternoError('usage', 'a partition is named without its slot, in small letters');
  const facts = await parseHandsetInput(await readJson(parsed.required('to')));
  const target = writeTargetOf(facts, partition, parsed.option('slot') ?? null);
  const judgement = await withProofFiles(parsed, (files) =>
    withFile(parsed.positionals[0]!, async (image) => {
      const weighed = await weighWrite({ image, ...files }, { purpose, target }, pooledPorts);
      return decide({ purpose, target, ...weighed });
    }),
  );
  const out = printedJudgement(judgement);
  if (judgement.verdict !== 'refused') return out;
  const wrong = judgement.checks.filter(({ holds }) => holds === false);
  throw new RefusedWith(
    out,
    wrong.map(({ id, saw }) => `${WRITE_CHECK_TITLES[id]}: ${writeSawWords(saw)}`).join(' '),
  );
};

import 'server-only';
import { toEternoError } from '@/core/errors';
import type { Evidence } from '@/core/rounds/evidence';
import type { RoundRow, StepRow } from '../db/models';
import { changeRound, findRound, listRounds } from '../repositories/round-repository';
import { now } from './clock';
import { wholeMissing, wholePackage } from './judgements';
import { oneAtATime } from './one-at-a-time';
import { publish } from './message-bus';
import type { RoundContext, RoundStepRow } from './round-context';
import { patchedOf, roundContext } from './round-context';

/** So often a round that somebody else changes at the same time is looked at again. */
const TRIES = 5;

/** Looks at every open round and marks the steps done whose result the vault already holds. One that keeps changing is left for the next time. */
export async function settleRounds(): Promise<void> {
  for (const { id, state } of await listRounds()) if (state === 'open') await oneAtATime(`settle ${id}`, () => settleInTurn(id));
}

async function settleInTurn(roundId: string): Promise<void> {
  for (let i = 0; i < TRIES; i += 1) {
    const round = await findRound(roundId);
    if (round?.state !== 'open') return;
    try {
      return await settleRound(round);
    } catch (thrown) {
      if (toEternoError(thrown).code !== 'conflict') throw thrown;
    }
  }
}

export async function settleRound(round: Readonly<RoundRow>): Promise<void> {
  const context = await roundContext(round.id);
  const changes: { id: string; change: Partial<StepRow> }[] = [];
  let last = context.steps.filter((step) => step.state === 'done').reduce((latest, step) => Math.max(latest, step.endedAt ?? 0), round.openedAt);
  for (const step of context.steps) {
    if (step.state === 'done') continue;
    const evidence = evidenceFor(context, step);
    if (!evidence) break;
    const endedAt = now();
    changes.push({ id: step.id, change: { state: 'done', startedAt: last, endedAt, actor: 'computer', evidence: JSON.stringify(evidence) } });
    last = endedAt;
  }
  if (changes.length === 0) return;
  await changeRound(round.id, round.version, {}, changes);
  publish({ type: 'round', roundId: round.id, version: round.version + 1 });
}

/** What the vault and the shelf of packages already prove of a step, or null. */
function evidenceFor(context: RoundContext, { stepKey, planned }: RoundStepRow): Evidence[] | null {
  const { bench, round, rootPartition } = context;
  const target = round.target ?? planned.build;
  const seen = (what: string): Evidence[] => [{ what, strength: 'strong' }];
  const stock = (build: string) =>
    bench.images.find((image) => image.role === 'stock' && image.partition === rootPartition && image.fingerprint === build);
  const opened = (build: string) => {
    const kept = stock(build);
    if (kept) return seen(`the stock ${kept.partition} of this build is in the vault`);
    const packaged = bench.packages.find(({ report }) => !report.incremental && report.build.fingerprint === build);
    return packaged ? seen(`${packaged.fileName} is exactly this build`) : null;
  };
  const taken = (build: string) => {
    const kept = stock(build);
    return kept ? seen(`${kept.partition} ${kept.sha256} is in the vault`) : null;
  };
  const made = (build: string) => {
    const patched = patchedOf(context, build);
    return patched && seen(`patched by ${patched.kit}, proved again by the server: ${patched.sha256}`);
  };
  switch (stepKey) {
    case 'open-installed-package':
      return opened(planned.build);
    case 'open-target-package': {
      // where all of the build is wanted, its one image is not enough
      const whole = context.steps.some((step) => step.stepKey === 'take-whole' || step.stepKey === 'sideload');
      const packaged = wholePackage(bench, target);
      return whole ? packaged && seen(`${packaged.fileName} is exactly this build`) : opened(target);
    }
    case 'take-stock':
      return taken(planned.build);
    case 'take-target-stock':
      return taken(target);
    case 'take-whole':
      return wholeMissing(bench, target)?.length === 0 ? seen('every image of this build is in the vault') : null;
    case 'patch':
      return made(planned.build);
    case 'patch-target':
      return made(target);
    default:
      return null;
  }
}

import 'server-only';
import { toEternoError } from '@/core/errors';
import type { Command, Moment } from '@/core/rounds/command';
import { decide } from '@/core/rounds/decide';
import type { ModuleTrial } from '@/core/rounds/decision';
import { isRefusal } from '@/core/rounds/decision';
import type { KitTrial } from '@/core/rounds/round';
import { refusalError } from '@/core/words/refusals';
import type { ModuleTrialRow } from '../db/models';
import type { TrialRow } from '../db/record-rows';
import { whenKept } from '../db/connection';
import { applyDecision } from '../repositories/round-repository';
import { now } from '../services/clock';
import { kitItem } from '@/core/bench/judgements';
import { publish } from '../services/message-bus';
import { modulesNamed, versionOf } from '@/core/bench/modules-judged';
import { openPutBacks } from '../services/put-back-service';
import { noteTrueState } from '../services/practice-self';
import { rootChanges } from '../services/root-history';
import { provedOf } from './proofs';
import type { RoundContext } from './round-context';
import { patchedOf, roundContext } from './round-context';

/*
 * Every change of a round goes through here: what is known is read, the command is decided, and all of it is
 * kept in one transaction.
 */

/** So often a command that names no version is decided again when somebody else was faster. */
const TRIES = 5;

async function momentOf(context: RoundContext): Promise<Moment> {
  const { round, steps, handset } = context;
  return {
    round,
    steps,
    putBacks: await openPutBacks(handset.id),
    root: (await rootChanges(handset.id)).at(-1)?.state ?? null,
    proves: (step, all, target) => provedOf(context, step, all, target),
  };
}

/** The build that a round speaks for: the one that it brings, else the one that runs. */
export const buildWanted = ({ round, facts }: RoundContext) => round.target ?? facts.fingerprint;

/** What a round saw of the kit it used; nothing where it used none. */
function trialRows(context: RoundContext, trials: readonly KitTrial[], at: number): Omit<TrialRow, 'id'>[] {
  const fingerprint = buildWanted(context);
  const patched = fingerprint === null ? null : patchedOf(context, fingerprint);
  const kit = context.bench.kits.find((row) => kitItem(row) === patched?.kit);
  if (!kit || fingerprint === null) return [];
  const about = {
    shelf: 'kit' as const,
    item: kitItem(kit),
    fingerprint,
    handsetId: context.handset.id,
    roundId: context.round.id,
  };
  return trials.map(({ outcome, note }) => ({ ...about, outcome, note, at }));
}

function moduleRows(
  { round, handset, facts, bench, subject }: RoundContext,
  trials: readonly ModuleTrial[],
  at: number,
): Omit<ModuleTrialRow, 'id'>[] {
  // they come back on what runs
  const fingerprint = facts.fingerprint ?? round.target ?? '';
  return trials.map(({ module, outcome, note }) => ({
    module,
    moduleVersion: versionOf(bench, modulesNamed(subject, [module])[0]!),
    fingerprint,
    handsetId: handset.id,
    roundId: round.id,
    outcome,
    note,
    at,
  }));
}

/**
 * Decides a command from what is known now and keeps all that it comes to.
 * @param version the one that the command was meant for; null where only this process may be about it, and
 *   whatever the round is at counts
 * @returns what the command was decided from
 * @throws {EternoError} `conflict` where somebody was faster or the step is another one, `refused` with the
 *   reason
 */
export async function carryOut(
  roundId: string,
  version: number | null,
  commandOf: (context: RoundContext) => Command | Promise<Command>,
): Promise<RoundContext> {
  for (let tried = 1; ; tried += 1) {
    const context = await roundContext(roundId);
    if (version !== null && context.round.version !== version)
      throw refusalError({ because: 'changed-elsewhere' });
    const command = await commandOf(context);
    const at = now();
    const decision = decide(await momentOf(context), command, at);
    if (isRefusal(decision)) throw refusalError(decision);
    const { round, handset, steps } = context;
    try {
      const kept = await applyDecision({
        id: roundId,
        handsetId: handset.id,
        version: round.version,
        now: at,
        steps,
        decision,
        trials: trialRows(context, decision.trials, at),
        moduleTrials: moduleRows(context, decision.moduleTrials, at),
      });
      whenKept(() => publish({ type: 'round', roundId, version: kept }));
      whenKept(() => void noteTrueState(roundId, handset.id, decision.events).catch(() => undefined));
      return context;
    } catch (thrown) {
      if (version !== null || tried === TRIES || toEternoError(thrown).code !== 'conflict') throw thrown;
    }
  }
}

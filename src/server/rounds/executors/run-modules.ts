import 'server-only';
import { EternoError } from '@/core/errors';
import { modulesLoaded } from '@/core/handset/state';
import { afterBatch, isDone, suspectsOf } from '@/core/modules/bring-back';
import { batchNow, returnState } from '../module-return';
import { carryOut } from '../carry-out';
import { roundContext } from '../round-context';
import { needRoot } from '../../services/link-service';
import { ifAnswers } from '@/core/link/if-answers';
import type { Executor, Executors, StepRun } from './running';
import { keepSystemFacts, modeNow, strong, until } from './running';
import { started, untilStarted } from './run-modes';

/* Modules off before an update, and back in batches after it. */

const MINUTE = 60_000;

/** Exactly these on, as the handset then says. */
async function switchTo(running: StepRun, only: readonly string[]) {
  await needRoot(running.link);
  await running.link.modules(only);
  const { modules } = await running.link.status();
  const loaded = modulesLoaded(modules);
  const strange = [
    ...loaded.filter((id) => !only.includes(id)),
    ...only.filter((id) => !loaded.includes(id)),
  ];
  if (strange.length > 0)
    throw new EternoError('handset-refused', `It still says otherwise of ${strange.join(', ')}.`);
  return modules;
}

/** Those that the round judged too risky, or all. */
const modulesOff: Executor = async (running) => {
  const { ids } = (await running.link.status()).modules;
  const named = running.round.plan.modulesOff ?? [];
  const off = named.length > 0 ? ids.filter((id) => named.includes(id)) : ids;
  const stay = ids.filter((id) => !off.includes(id));
  await switchTo(running, stay);
  return [
    strong(`${off.length === 0 ? 'no modules' : off.join(', ')}: off, as the handset says`),
    ...(stay.length > 0 ? [strong(`${stay.join(', ')}: left on`)] : []),
  ];
};

/** A restart with them off: a switch that one ignores shows there, not before. */
const modulesSeenOff: Executor = async (running) => {
  const { link, round } = running;
  await link.restart('system');
  await untilStarted(running);
  const evidence = await started(running);
  await needRoot(link);
  const loaded = modulesLoaded((await link.status()).modules);
  const named = round.plan.modulesOff ?? [];
  const again = named.length > 0 ? loaded.filter((id) => named.includes(id)) : loaded;
  if (again.length > 0)
    throw new EternoError('handset-refused', `After its restart it says on of ${again.join(', ')}.`);
  return [...evidence, strong('after its restart it says off of each of them')];
};

/** One start with these on: it comes up with them, or its kit has rested them after its loops. */
async function startWith(running: StepRun, on: readonly string[]): Promise<'started' | 'looped'> {
  const { link, watch } = running;
  await switchTo(running, on);
  await link.restart('system');
  let left = false;
  await until(running, 'start', 20 * MINUTE, async () => {
    const mode = await modeNow(running);
    left ||= mode !== 'system';
    return left && mode === 'system' ? true : null;
  });
  watch.onProgress({ phase: 'read', doneBytes: 1, totalBytes: 1 });
  const status = await link.status();
  return status.modules.on ? 'started' : 'looped';
}

/**
 * Batch after batch, each from the outcome of the last; it can be stopped between two and goes on from there.
 */
const modulesOn: Executor = async (running) => {
  const { round, link, bench } = running;
  const evidence = [];
  for (;;) {
    const context = await roundContext(round.id);
    const { state, stays, on, next } = await returnState(context);
    const { modules } = await link.status();
    const have = modules.ids;
    if (isDone(state)) {
      const wanted = [...on, ...state.good].filter((id) => have.includes(id));
      // the last start may have been one that looped: what is good comes back with the next
      if (modulesLoaded(modules).length !== wanted.length) await switchTo(running, wanted);
      await ifAnswers(keepSystemFacts(running));
      const off = [...stays, ...state.bad];
      return [
        ...evidence,
        strong(`${wanted.length === 0 ? 'no modules' : wanted.join(', ')}: on, as the handset says`),
        ...(off.length > 0 ? [strong(`stays off, because it loops on this build: ${off.join(', ')}`)] : []),
      ];
    }
    const tried = batchNow({ next });
    const batch = tried.filter((id) => have.includes(id));
    const outcome =
      batch.length === 0
        ? 'started'
        : await startWith(
            running,
            [...on, ...state.good, ...batch].filter((id) => have.includes(id)),
          );
    const after = afterBatch(state, tried, outcome);
    await carryOut(round.id, null, () => ({
      do: 'batch',
      batch: tried,
      outcome,
      before: state,
      after,
      stays,
      byHand: false,
    }));
    const names = batch.map((id) => bench.modules.find((row) => row.moduleId === id)?.name ?? id).join(', ');
    const suspects = suspectsOf(after).map(({ id }) => id);
    evidence.push(
      strong(
        outcome === 'started'
          ? `${names}: it started with it`
          : `${names}: it looped, and the kit rested all modules${suspects.length > 1 ? `; one of them does it` : ''}`,
      ),
    );
  }
};

export const MODULES = {
  'modules-off': modulesOff,
  'modules-seen-off': modulesSeenOff,
  'modules-on': modulesOn,
} as const satisfies Executors;

import 'server-only';
import { EternoError } from '@/core/errors';
import { readSecret } from '../../repositories/handset-repository';
import { after, before } from '../round-context';
import { standInView, withBootloader, withSystem } from '../../services/stand-in-service';
import type { Executor, Running } from './running';
import { ifAnswers, keepBootloaderFacts, keepListed, keepSystemFacts, modeNow, readBootloader, strong, until, weak } from './running';

/* Steps that bring the handset from one mode into another, unlock and lock it. */

const MINUTE = 60_000;

export const readFacts: Executor = async (running) => {
  const mode = await modeNow(running.profile);
  if (mode === 'bootloader') return [...(await keepBootloaderFacts(running)).evidence];
  const { facts } = await keepSystemFacts(running);
  return [
    strong(`the running system says build ${facts.buildId}${facts.currentSlot === null ? '' : `, slot ${facts.currentSlot}`}`),
    strong('the serial is this handset’s'),
  ];
};

export const debugging: Executor = async (running) => {
  const { facts } = await until(running, 'wait for the handset to trust this computer', 30 * MINUTE, () => ifAnswers(keepSystemFacts(running)));
  return [strong(`it answers again: build ${facts.buildId}, its own serial`)];
};

export const unlockSwitch: Executor = async (running) => {
  await until(running, 'wait for the switch', 30 * MINUTE, async () =>
    (await standInView(running.profile))?.state.unlockSwitch === 'on' ? true : null,
  );
  await keepSystemFacts(running);
  return [strong('the running system says that the switch is on')];
};

export const autoUpdateOff: Executor = async (running) => {
  await until(running, 'wait for the switch', 30 * MINUTE, async () =>
    (await standInView(running.profile))?.state.settings.autoUpdate === false ? true : null,
  );
  return [strong('the running system says that its own updates are off')];
};

async function untilLock(running: Running, unlocked: boolean) {
  return until(running, 'choose on the handset', 10 * MINUTE, () =>
    ifAnswers(
      withBootloader(running.profile, async (client) => {
        const reading = await readBootloader(client, running.handset.id, running.facts.device);
        return reading.unlocked === unlocked ? reading : null;
      }),
    ),
  );
}

export const unlock: Executor = async (running) => {
  const { known, profile, handset } = running;
  if (known.value('unlockPath') === 'key chord') {
    await until(running, 'choose on the handset', 10 * MINUTE, async () => ((await standInView(profile))?.state.locked === false ? true : null));
    return [weak('its screen went dark after it was unlocked; the next start shows the notice')];
  }
  const code = known.value('unlockPath') === 'mailed code' ? await readSecret(handset.id, 'code') : null;
  await withBootloader(profile, async (client) => {
    await readBootloader(client, handset.id, running.facts.device);
    await client.command(code === null ? 'flashing unlock' : `flashing unlock ${code}`);
  });
  await untilLock(running, true);
  const reading = await keepBootloaderFacts(running);
  running.tell({ root: { state: 'stock', why: 'unlocked, everything erased' } });
  return [...reading.evidence];
};

export const lock: Executor = async (running) => {
  await withBootloader(running.profile, async (client) => {
    await readBootloader(client, running.handset.id, running.facts.device);
    await client.command('flashing lock');
  });
  await untilLock(running, false);
  return [...(await keepBootloaderFacts(running)).evidence];
};

export const bootloader: Executor = async (running) => [...(await keepBootloaderFacts(running)).evidence];

export const recovery: Executor = async (running) => {
  const { recovery: own, evidence } = await keepListed(running, 'recovery').catch(async (thrown: unknown) => {
    // the maker's recovery lists nothing: its screen is all there is
    if ((await modeNow(running.profile)) === 'recovery') return { recovery: null, evidence: [weak('its screen shows the maker’s recovery')] };
    throw thrown;
  });
  return own === null ? evidence : [...evidence, strong(`it is ${own}`)];
};
export const download: Executor = async (running) => (await keepListed(running, 'download')).evidence;
export const sideloadMode: Executor = async (running) => (await keepListed(running, 'sideload')).evidence;

/** Brings a handset that answers into the mode of the step: the same as the keys, without them. @throws {EternoError} `refused`, `link-lost` */
export async function sendToMode(profile: string, to: 'bootloader' | 'recovery'): Promise<void> {
  const mode = await modeNow(profile);
  if (mode === to) return;
  if (mode === 'bootloader' || mode === 'userspace') {
    await withBootloader(profile, (client) => client.command(`reboot-${to}`));
    return;
  }
  await withSystem(profile, (client) => client.ask({ do: 'restart', to }));
}

/** The mode that the steps before this one left it in. */
const modeBefore = (running: Running) =>
  before(running, running.step).findLast(({ planned }) => planned.mode !== 'computer')?.planned.mode ?? 'system';

async function sendToSystem(running: Running): Promise<void> {
  const { profile, step } = running;
  const mode = await modeNow(profile);
  if (mode === 'bootloader' || mode === 'userspace') await withBootloader(profile, (client) => client.command('reboot'));
  // one that was to start from elsewhere and runs has been started by hand: it is not started again
  else if (mode === 'system' && step.key === 'start' && modeBefore(running) === 'system')
    await withSystem(profile, (client) => client.ask({ do: 'restart', to: 'system' }));
  // the maker's recovery has no link: its menu starts the system
  else if (mode === 'recovery') await ifAnswers(withSystem(profile, (client) => client.ask({ do: 'restart', to: 'system' })));
}

export const start: Executor = async (running) => {
  const { profile, watch } = running;
  await sendToSystem(running);
  await until(running, 'start', 10 * MINUTE, async () => {
    const mode = await modeNow(profile);
    if (mode === 'looping') {
      const words = 'The system does not come up: the handset starts over and over.';
      running.tell({ root: { state: 'broken', why: words } });
      running.tell({ trials: [{ outcome: 'looped', note: words }] });
      throw new EternoError('handset-refused', words);
    }
    return mode === 'system' ? true : null;
  });
  watch.onProgress({ phase: 'read', doneBytes: 1, totalBytes: 1 });
  return started(running);
};

/** What runs after a start, held against the plan. */
async function started(running: Running) {
  const { round, profile, step, slotCount } = running;
  const next = after(running, step) ?? step.planned;
  const answered = await ifAnswers(keepSystemFacts(running));
  if (!answered) {
    const view = await standInView(profile);
    return [weak(`its screen shows the running system${view?.state.settings.debugging === false ? '; debugging is off, so it says no more' : ''}`)];
  }
  const { facts } = answered;
  if (slotCount === 2 && facts.currentSlot !== next.slot)
    throw new EternoError('handset-refused', `It started from slot ${facts.currentSlot}, not from slot ${next.slot}: it fell back.`);
  if (facts.fingerprint !== null && facts.fingerprint !== next.build)
    throw new EternoError('handset-refused', `It runs ${facts.buildId}, and another build was expected.`);
  if (step.planned.rootAfter === false) {
    const stock = round.kind === 'return to stock' || round.kind === 'lock again' || running.subject.root === 'stock';
    running.tell({ root: { state: stock ? 'stock' : 'lost', why: 'started without root, as planned' } });
  }
  if (step.planned.rootAfter === true && running.subject.root === 'broken') running.tell({ root: { state: 'unproven', why: 'it starts again' } });
  return [strong(`started from ${facts.currentSlot === null ? 'its one slot' : `slot ${facts.currentSlot}`}, build ${facts.buildId}`)];
}

export const otherSlot: Executor = async (running) => {
  const wanted = running.step.planned.slot === 'a' ? 'b' : 'a';
  await withBootloader(running.profile, async (client) => {
    await readBootloader(client, running.handset.id, running.facts.device);
    await client.command(`set_active:${wanted}`);
  });
  const reading = await keepBootloaderFacts(running);
  if (reading.slot !== wanted) throw new EternoError('handset-refused', `The bootloader says slot ${reading.slot}.`);
  return [...reading.evidence];
};

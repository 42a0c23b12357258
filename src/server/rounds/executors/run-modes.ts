import 'server-only';
import { EternoError, toEternoError } from '@/core/errors';
import { parsePrinted } from '@/core/formats/facts/parse-facts';
import type { HandsetLink } from '@/core/link/handset-link';
import { readSecret } from '../../repositories/handset-repository';
import { ifAnswers } from '@/core/link/if-answers';
import { trustsNobody } from '@/core/rounds/round';
import { rootAfterStart } from '@/core/rounds/answer';
import * as say from '@/core/words/step-evidence';
import { before } from '../round-context';
import { shownAt } from '../shown';
import { recordAfter, recordSaid } from './tamper-record';
import type { Executor, Executors, StepRun } from './running';
import {
  keepBootloaderFacts,
  keepListed,
  keepSystemFacts,
  modeNow,
  readBootloader,
  strong,
  until,
  untilListed,
  weak,
} from './running';

/* Steps that bring the handset from one mode into another, unlock and lock it. */

const MINUTE = 60_000;

const readFacts: Executor = async (running) => {
  if ((await modeNow(running)) === 'bootloader') return (await keepBootloaderFacts(running)).evidence;
  const { facts } = await keepSystemFacts(running);
  return [
    strong(
      `the running system says build ${facts.buildId}${facts.currentSlot === null ? '' : `, slot ${facts.currentSlot}`}`,
    ),
    strong('the serial is this handset’s'),
  ];
};

const debugging: Executor = async (running) => {
  const { facts } = await until(running, 'wait for the handset to trust this computer', 30 * MINUTE, () =>
    ifAnswers(keepSystemFacts(running)),
  );
  return [strong(`it answers again: build ${facts.buildId}, its own serial`)];
};

const unlockSwitch: Executor = async (running) => {
  await until(running, 'wait for the switch', 30 * MINUTE, async () =>
    parsePrinted((await ifAnswers(running.link.properties())) ?? '').values['sys.oem_unlock_allowed'] === '1'
      ? true
      : null,
  );
  await keepSystemFacts(running);
  return [strong('the running system says that the switch is on')];
};

const autoUpdateOff: Executor = async (running) => {
  await until(running, 'wait for the switch', 30 * MINUTE, async () =>
    (await ifAnswers(running.link.status()))?.settings.autoUpdate === false ? true : null,
  );
  return [strong('the running system says that its own updates are off')];
};

const untilLock = (running: StepRun, unlocked: boolean) =>
  until(running, 'choose on the handset', 10 * MINUTE, async () => {
    const reading = await ifAnswers(readBootloader(running));
    return reading?.unlocked === unlocked ? reading : null;
  });

const unlock: Executor = async (running) => {
  const { known, link, handset } = running;
  if (known.value('unlockPath') === 'key chord') return unlockByKeys(running);
  const code = known.value('unlockPath') === 'mailed code' ? await readSecret(handset.id, 'code') : null;
  const before = await readBootloader(running);
  await link.unlock(code);
  await untilLock(running, true);
  const { evidence } = await keepBootloaderFacts(running);
  running.tell(ERASED);
  return [...evidence, ...(await recordAfter(running, before))];
};

const ERASED = { root: { state: 'stock', why: 'unlocked, everything erased' } } as const;

/**
 * It is chosen with its keys, in download mode; it says so there, or is gone from the list because it erases
 * and starts.
 */
async function unlockByKeys(running: StepRun) {
  let there = false;
  const seen = await until(running, 'choose on the handset', 10 * MINUTE, async () => {
    const line = await running.link.listed();
    if (line?.unlocked === true) return 'unlocked';
    // one that was never on the list has not left it: its cable may be out
    if (line === null) return there ? 'gone' : null;
    there = true;
    return null;
  });
  running.tell(ERASED);
  return [
    seen === 'unlocked'
      ? strong('it is listed as unlocked')
      : weak('it went off the list after its keys were held; the next start shows the notice'),
  ];
}

const lock: Executor = async (running) => {
  await readBootloader(running);
  await running.link.lock();
  await untilLock(running, false);
  return (await keepBootloaderFacts(running)).evidence;
};

const secondHost: Executor = async (running) => (await keepListed(running, 'system')).evidence;
const bootloader: Executor = async (running) => (await keepBootloaderFacts(running)).evidence;

const recovery: Executor = async (running) => {
  const { recovery: own, evidence } = await keepListed(running, 'recovery');
  return own === null ? evidence : [...evidence, strong(`it is ${own}`)];
};
const download: Executor = async (running) => (await keepListed(running, 'download')).evidence;
const sideloadMode: Executor = async (running) => (await keepListed(running, 'sideload')).evidence;

/**
 * Brings a handset that answers into the mode of the step: the same as the keys, without them.
 * @throws {EternoError} `refused`, `link-lost`
 */
export async function sendToMode(link: HandsetLink, to: 'bootloader' | 'recovery'): Promise<void> {
  if ((await link.listed())?.mode !== to) await link.restart(to);
}

/** The mode that the steps before this one left it in. */
const modeBefore = (running: StepRun) =>
  before(running, running.step).findLast(({ planned }) => planned.mode !== 'computer')?.planned.mode ??
  'system';

async function sendToSystem(running: StepRun): Promise<void> {
  const { link, step } = running;
  const mode = await modeNow(running);
  // what is dark or in a mode without a link is started by hand; so was one that runs already and was to
  // start from elsewhere
  if (mode === null || (mode === 'system' && !(step.key === 'start' && modeBefore(running) === 'system')))
    return;
  // the maker's recovery takes no commands: its menu starts the system
  if (mode === 'recovery') await ifAnswers(link.restart('system'));
  else await link.restart('system');
}

/** The time that a start may take: three times a slow one. */
const START_MS = 9 * MINUTE;

const start: Executor = async (running) => {
  const { watch } = running;
  await sendToSystem(running);
  if (trustsNobody(running.steps, running.step)) {
    // what it left is seen; what it comes up to is seen when it trusts this computer again
    await until(running, 'start', START_MS, async () => ((await modeNow(running)) === null ? true : null));
    return [weak('it is off the list and starts; it answers again when its debugging is on')];
  }
  await untilStarted(running);
  watch.onProgress({ phase: 'read', doneBytes: 1, totalBytes: 1 });
  return started(running);
};

/** Its keys are the person's: it is seen to leave its system, and to come up again. */
const startWithKeys: Executor = async (running) => {
  let left = false;
  await until(running, 'start it with its keys', START_MS, async () => {
    const mode = await modeNow(running);
    left ||= mode !== 'system';
    return left && mode === 'system' ? true : null;
  });
  return started(running);
};

/**
 * @throws {EternoError} `handset-refused` where it did not come up in time, or starts over and over
 */
export async function untilStarted(running: StepRun): Promise<void> {
  let left = false;
  try {
    await until(running, 'start', START_MS, async () => {
      const mode = await modeNow(running);
      left ||= mode === null;
      if (left && mode === 'bootloader')
        throw new EternoError('handset-refused', 'It came up in its bootloader, not in its system.');
      return mode === 'system' ? true : null;
    });
  } catch (thrown) {
    const error = toEternoError(thrown);
    if (error.code !== 'handset-refused') throw error;
    running.tell({ root: { state: 'broken', why: error.message } });
    throw error;
  }
}

/** What runs after a start, held against the plan by the same reader as what a person pastes. */
export async function started(running: StepRun) {
  const { round, step } = running;
  const { facts, text } = await until(running, 'read', MINUTE, () => ifAnswers(keepSystemFacts(running)));
  const shown = await shownAt(running, step, text);
  if (shown?.verdict === 'otherwise')
    throw new EternoError('handset-refused', say.startedOtherwise(shown.differs));
  running.tell({ root: rootAfterStart(round.kind, step, running.subject.root) });
  const record = recordSaid(running.known, text);
  return [
    ...(record === null ? [] : [strong(record)]),
    strong(
      `started from ${facts.currentSlot === null ? 'its one slot' : `slot ${facts.currentSlot}`}, build ${facts.buildId}`,
    ),
  ];
}

const selectSlot = async (running: StepRun, wanted: 'a' | 'b') => {
  await readBootloader(running);
  await running.link.setActive(wanted);
  const reading = await keepBootloaderFacts(running);
  if (reading.slot !== wanted)
    throw new EternoError('handset-refused', `The bootloader says slot ${reading.slot}.`);
  return reading.evidence;
};
const otherSlot: Executor = (running) => selectSlot(running, running.step.planned.slot === 'a' ? 'b' : 'a');
const sameSlot: Executor = (running) => selectSlot(running, running.step.planned.slot);

/** Started from memory: an image that does not come up leaves the disk as it was. */
export const untilStartedFromMemory = (running: StepRun) =>
  untilListed(running, 'start', START_MS, 'system').catch((thrown: unknown) => {
    const error = toEternoError(thrown);
    if (error.code !== 'handset-refused') throw error;
    throw new EternoError(
      error.code,
      `${error.message} The disk is as it was: start it again from its bootloader.`,
      { cause: error, ...(error.details && { details: error.details }) },
    );
  });

export const MODES = {
  'read-facts': readFacts,
  debugging: debugging,
  'auto-update-off': autoUpdateOff,
  'unlock-switch': unlockSwitch,
  unlock: unlock,
  lock: lock,
  'second-host': secondHost,
  bootloader: bootloader,
  recovery: recovery,
  download: download,
  'sideload-mode': sideloadMode,
  start: start,
  'finish-start': start,
  'start-with-recovery-keys': startWithKeys,
  'other-slot': otherSlot,
  'same-slot': sameSlot,
} as const satisfies Executors;

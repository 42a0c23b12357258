import 'server-only';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';
import { installedText } from '@/core/modules/installed';
import { LEAST_BATTERY_PERCENT } from '@/core/handset/variables';
import type { ModulesState } from '@/core/handset/state';
import type { Witness } from '@/core/facts/resolve-facts';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import type { Partition } from '@/core/rounds/command';
import type { Evidence } from '@/core/rounds/evidence';
import type { RoundStep, Seen } from '@/core/rounds/round';
import { NOTHING_SEEN } from '@/core/rounds/round';
import type { StepKey } from '@/core/steps/step-key';
import * as say from '@/core/words/step-evidence';
import { partitionName } from '@/core/words/step-evidence';
import { loopWatch } from '@/core/link/loop-watch';
import type { HandsetLink, Listed, ListedMode, SystemStatus } from '@/core/link/handset-link';
import { insertFacts, readSecret } from '../../repositories/handset-repository';
import { now, pause } from '../../services/clock';
import { applyFacts, whoseText } from '../../services/fact-service';
import type { JobWatch } from '../../services/jobs';
import { variablesText } from '../../services/link-facts';
import { linkOf } from '../../services/link-service';
import { memorySource } from '@/core/bytes/byte-source';
import { heldImage } from '@/core/slots/held-image';
import { nodeDigests } from '@/platform/node/node-digests';
import { inTransaction } from '../../db/connection';
import type { RoundContext } from '../round-context';

/* What every step over the link works with. */

export type StepContext = RoundContext & { readonly step: RoundStep };

export interface StepRun extends StepContext {
  readonly link: HandsetLink;
  readonly watch: JobWatch;
  /** From here on the partition is unknown if the step fails. */
  began(partition: string, slot: string | null): void;
  /** What lies there now; it is no longer in doubt. */
  wrote(
    partition: string,
    slot: string | null,
    sha256: string,
    certainty: 'predicted' | 'read',
    reason: string,
  ): void;
  /** Nothing was written after all: the handset refused before its first byte. */
  refused(): void;
  /** What was found out beside the evidence; all of it is kept when the step ends, however it ends. */
  tell(seen: Partial<Seen>): void;
  /** What this step has written so far. */
  readonly written: readonly Partition[];
  /** What was being written when the step failed. */
  inDoubt(): readonly Partition[];
  seen(): Seen;
}

export type Executor = (running: StepRun) => Promise<readonly Evidence[]>;
/** Those of a family. */
export type Executors = Readonly<Partial<Record<StepKey, Executor>>>;

export function startRunning(context: StepContext, watch: JobWatch): StepRun {
  const inDoubt = new Map<string, Partition>();
  const written: Partition[] = [];
  let seen: Seen = NOTHING_SEEN;
  const tell = ({ slots = [], root = null, trials = [], backups = [] }: Partial<Seen>) => {
    seen = {
      slots: [...seen.slots, ...slots],
      root: root ?? seen.root,
      trials: [...seen.trials, ...trials],
      backups: [...seen.backups, ...backups],
    };
  };
  return {
    ...context,
    link: linkOf(context.handset, watch.signal),
    watch,
    written,
    began: (partition, slot) => void inDoubt.set(named(partition, slot), { partition, slot }),
    refused: () => inDoubt.clear(),
    wrote(partition, slot, sha256, certainty, reason) {
      inDoubt.delete(named(partition, slot));
      written.push({ partition, slot });
      tell({ slots: [{ slot, partition, sha256, certainty, reason }] });
    },
    tell,
    inDoubt: () => [...inDoubt.values()],
    seen: () => seen,
  };
}

export const stillWriting = (name: string) =>
  `${name} is being written, and stopping now would leave it half written. It ends by itself.`;

/** While bytes go onto the handset nothing stops the step: it would leave them half written. */
export async function whileWriting<T>(
  { watch }: Pick<StepRun, 'watch'>,
  name: string,
  work: () => Promise<T>,
): Promise<T> {
  watch.hold(stillWriting(name));
  try {
    return await work();
  } finally {
    watch.hold(null);
  }
}

export const strong = (what: string): Evidence => ({ what, strength: 'strong' });
export const weak = (what: string): Evidence => ({ what, strength: 'weak' });

export const named = (partition: string, slot: string | null) => partitionName({ partition, slot });

export interface BootloaderReading {
  readonly text: string;
  readonly evidence: readonly Evidence[];
  readonly slot: string | null;
  readonly unlocked: boolean | null;
  readonly batteryOk: boolean | null;
}

/** Variables read in the bootloader, checked to be of this very handset. @throws {EternoError} `refused` */
export async function readBootloader({
  link,
  handset,
  facts: { device },
}: Pick<StepRun, 'link' | 'handset' | 'facts'>): Promise<BootloaderReading> {
  const text = await variablesText(link);
  const facts = interpretFacts(parsePrinted(text).values);
  const whose = whoseText(text, await readSecret(handset.id, 'serial'), device);
  if (whose.otherSerial)
    throw new EternoError(
      'refused',
      'The handset in the bootloader has another serial than the one that was running. Nothing is written.',
    );
  if (!whose.ownSerial)
    throw new EternoError(
      'refused',
      'The serial could not be read in both modes, so this may be another handset.',
    );
  if (whose.otherProduct !== null)
    throw new EternoError(
      'refused',
      `The bootloader says ${whose.otherProduct}, the system said ${device}. Nothing is written.`,
    );
  return {
    text,
    slot: facts.currentSlot,
    unlocked: facts.unlocked,
    batteryOk: facts.batteryOk,
    evidence: [
      strong('same serial in the system and in the bootloader'),
      strong(
        `bootloader says ${facts.unlocked ? 'unlocked' : 'locked'}${facts.currentSlot === null ? '' : `, slot ${facts.currentSlot}`}`,
      ),
    ],
  };
}

/**
 * This handset read once more in its bootloader: nothing is written to another, a locked or an empty one.
 * @throws {EternoError} `refused`
 */
export async function readyToWrite(running: StepRun): Promise<BootloaderReading> {
  const { slotCount, step } = running;
  const reading = await readBootloader(running);
  if (reading.unlocked !== true)
    throw new EternoError('refused', 'The bootloader says it is locked. Nothing is written.');
  if (slotCount === 2 && reading.slot !== step.planned.slot)
    throw new EternoError(
      'refused',
      `Slot ${reading.slot} is active now, the round was checked for slot ${step.planned.slot}. Nothing is written.`,
    );
  if (reading.batteryOk === false)
    throw new EternoError('refused', 'The handset says its battery is too low for a write. Charge it first.');
  return reading;
}

export async function keepBootloaderFacts(running: StepRun): Promise<BootloaderReading> {
  const reading = await readBootloader(running).catch((thrown: unknown) => {
    const error = toEternoError(thrown);
    throw error.code === 'link-lost'
      ? new EternoError('link-lost', 'The handset is not in its bootloader yet, or its cable is out.', {
          cause: error,
        })
      : error;
  });
  await applyFacts(running.handset.id, reading.text, 'link');
  return reading;
}

const TEXT_FACTS = { snapshot: { none: 'none', waiting: 'snapshotted', merging: 'merging' } } as const;

const toldModules = ({ ids, versions = {} }: ModulesState) =>
  installedText(ids.map((id) => ({ id, version: versions[id] ?? null })));

const yesNo = (is: boolean) => (is ? 'yes' : 'no');
const toldRootApp = ({ rootAppIs: app }: SystemStatus) =>
  app === null
    ? []
    : [
        { key: 'rootAppVersion', value: String(app.versionCode) },
        { key: 'rootAppChannel', value: app.channel },
        { key: 'rootAppHidden', value: yesNo(app.hidden) },
        { key: 'rootAppPinned', value: yesNo(app.pinned) },
      ];

/**
 * Everything the running system says, kept as facts.
 * @throws {EternoError} `refused` for another handset, `link-lost`
 */
export async function keepSystemFacts({ handset, link }: Pick<StepRun, 'handset' | 'link'>) {
  const [text, status] = [await link.properties(), await link.status()];
  const told = [
    { key: 'snapshot', value: TEXT_FACTS.snapshot[status.snapshot] },
    { key: 'modules', value: toldModules(status.modules) },
    { key: 'rootApp', value: status.rootApp },
    ...toldRootApp(status),
    { key: 'batteryOk', value: String(status.batteryPercent >= LEAST_BATTERY_PERCENT) },
    ...(status.bootId === null ? [] : [{ key: 'bootId', value: status.bootId }]),
  ];
  const facts = await inTransaction(async () => {
    const read = await applyFacts(handset.id, text, 'link');
    await insertFacts(handset.id, told, { source: 'link', witness: 'system', at: now() });
    return read;
  });
  return { facts, status, text };
}

/** @throws {EternoError} `refused` where it is too low for a write, whatever mode the handset stands in */
export function needBattery(percent: number | null): void {
  if (percent !== null && percent < LEAST_BATTERY_PERCENT)
    throw new EternoError(
      'refused',
      `Its battery is at ${percent} %: under ${LEAST_BATTERY_PERCENT} % nothing is written. Charge it first.`,
    );
}

/**
 * The battery as the running system says it now, before something is written from inside.
 * @throws {EternoError} `refused`, `link-lost`
 */
export async function readyInside({
  handset,
  link,
}: Pick<StepRun, 'handset' | 'link'>): Promise<SystemStatus> {
  const status = await link.status();
  await keepBattery(handset.id, status.batteryPercent, 'system');
  needBattery(status.batteryPercent);
  return status;
}

/** Whether a handset that is listed so has battery enough for a write; null where it does not say. */
export const batteryEnough = ({ batteryPercent, batteryOk }: Listed): boolean | null =>
  batteryPercent === null ? batteryOk : batteryPercent >= LEAST_BATTERY_PERCENT;

const keepBattery = (handsetId: string, percent: number, witness: Witness) =>
  insertFacts(handsetId, [{ key: 'batteryOk', value: String(percent >= LEAST_BATTERY_PERCENT) }], {
    source: 'link',
    witness,
    at: now(),
  });

/**
 * The same outside the system: nothing is written to another handset, or to one that is nearly empty.
 * @throws {EternoError} `refused`, `link-lost`
 */
export async function readyListed(running: StepRun, mode: ListedMode) {
  const listed = await keepListed(running, mode);
  needBattery(listed.batteryPercent);
  return listed;
}

/**
 * The handset's line in the list: serial and mode word.
 * @throws {EternoError} `refused` for another handset, `link-lost` where none is listed so
 */
export async function keepListed(
  { handset, link }: StepRun,
  mode: ListedMode,
): Promise<{ recovery: string | null; batteryPercent: number | null; evidence: Evidence[] }> {
  const line = await link.listed();
  if (line?.mode !== mode)
    throw new EternoError(
      'link-lost',
      line === null
        ? `No handset is listed, and this needs it in ${mode}.`
        : `The handset is listed as ${line.mode}, not as ${mode}.`,
    );
  const serial = await readSecret(handset.id, 'serial');
  if (serial === null || line.serial !== serial)
    throw new EternoError('refused', 'The handset that is listed has another serial. Nothing is done to it.');
  if (line.unlocked !== null)
    await insertFacts(handset.id, [{ key: 'unlocked', value: String(line.unlocked) }], {
      source: 'link',
      witness: 'bootloader',
      at: now(),
    });
  const { batteryPercent, recovery } = line;
  if (batteryPercent !== null) await keepBattery(handset.id, batteryPercent, 'bootloader');
  return { recovery, batteryPercent, evidence: [strong(`listed as ${mode}, with its own serial`)] };
}

const POLL_MS = 150;
const WATCH_MS = 1000;

interface Waiting {
  readonly watch: Pick<StepRun['watch'], 'signal' | 'onProgress'>;
  readonly link: Pick<HandsetLink, 'listed' | 'comings'>;
}

/**
 * Waits for something on the handset, until the step is stopped, the time is over, or it is seen to start over
 * and over.
 */
export async function until<T>(
  { watch, link }: Waiting,
  phase: string,
  timeoutMs: number,
  look: () => Promise<T | null>,
  pollMs = POLL_MS,
): Promise<T> {
  const began = now();
  const startsOver = loopWatch(link, now);
  for (let watched = began - WATCH_MS; ;) {
    throwIfAborted(watch.signal);
    const found = await look();
    if (found !== null) return found;
    const waited = now() - began;
    if (began + waited - watched >= WATCH_MS) {
      watched = began + waited;
      if (await startsOver())
        throw new EternoError('handset-refused', say.LOOPS_SEEN, { details: { saw: 'looping' } });
    }
    if (waited > timeoutMs)
      throw new EternoError(
        'handset-refused',
        `It did not come within ${Math.round(timeoutMs / 60_000)} min.`,
      );
    watch.onProgress({ phase, doneBytes: Math.min(waited, timeoutMs), totalBytes: timeoutMs });
    await pause(pollMs);
  }
}

/** Where the handset is listed now; null where it is not. */
export const modeNow = async ({ link }: Pick<StepRun, 'link'>): Promise<ListedMode | null> =>
  (await link.listed())?.mode ?? null;

/** Waits until it is listed so. */
export const untilListed = (running: StepRun, phase: string, timeoutMs: number, mode: ListedMode) =>
  until(running, phase, timeoutMs, async () => ((await modeNow(running)) === mode ? true : null));

/**
 * What a partition holds, read out now: the hash of an image of the vault where it begins with exactly that
 * one, else of all of it.
 */
export async function readBackOf({ link, bench }: StepRun, name: string): Promise<string> {
  return (await heldImage(memorySource(await link.read(name), name), bench.images, nodeDigests)).sha256;
}

import 'server-only';
import { EternoError, throwIfAborted, toEternoError } from '@/core/errors';
import { installedText } from '@/core/modules/installed';
import type { ModulesState } from '@/core/handset/state';
import type { Witness } from '@/core/facts/resolve-facts';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import type { Partition } from '@/core/rounds/decide';
import type { Evidence } from '@/core/rounds/evidence';
import type { RoundStep, Seen } from '@/core/rounds/round';
import { NOTHING_SEEN } from '@/core/rounds/round';
import { partitionName } from '@/core/words/step-evidence';
import type { BootloaderClient } from '@/link/bootloader-client';
import type { SystemClient } from '@/link/system-client';
import { insertFacts, readSecret } from '../../repositories/handset-repository';
import { now, pause } from '../../services/clock';
import { applyFacts } from '../../services/fact-service';
import type { JobWatch } from '../../services/jobs';
import { propertyDump } from '../../services/link-facts';
import type { RoundContext } from '../round-context';
import { profileOf, standInView, withBootloader, withSystem } from '../../services/stand-in-service';

/* What every step over the link works with. */

export type StepContext = RoundContext & { readonly step: RoundStep };

export interface Running extends StepContext {
  readonly profile: string;
  readonly watch: JobWatch;
  /** From here on the partition is unknown if the step fails. */
  began(partition: string, slot: string | null): void;
  /** What lies there now; it is no longer in doubt. */
  wrote(partition: string, slot: string | null, sha256: string, certainty: 'predicted' | 'read', reason: string): void;
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

export type Executor = (running: Running) => Promise<readonly Evidence[]>;

export function startRunning(context: StepContext, watch: JobWatch): Running {
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
    profile: profileOf(context.handset),
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

export const stillWriting = (name: string) => `${name} is being written, and stopping now would leave it half written. It ends by itself.`;

/** While bytes go onto the handset nothing stops the step: it would leave them half written. */
export async function whileWriting<T>({ watch }: Pick<Running, 'watch'>, name: string, work: () => Promise<T>): Promise<T> {
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
export async function readBootloader(client: BootloaderClient, handsetId: string, device: string | null): Promise<BootloaderReading> {
  const text = (await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n');
  const facts = interpretFacts(parsePrinted(text).values);
  const serial = await readSecret(handsetId, 'serial');
  if (facts.serial === null || serial === null)
    throw new EternoError('refused', 'The serial could not be read in both modes, so this may be another handset.');
  if (facts.serial !== serial)
    throw new EternoError('refused', 'The handset in the bootloader has another serial than the one that was running. Nothing is written.');
  if (device !== null && facts.device !== device)
    throw new EternoError('refused', `The bootloader says ${facts.device}, the system said ${device}. Nothing is written.`);
  return {
    text,
    slot: facts.currentSlot,
    unlocked: facts.unlocked,
    batteryOk: facts.batteryOk,
    evidence: [
      strong('same serial in the system and in the bootloader'),
      strong(`bootloader says ${facts.unlocked ? 'unlocked' : 'locked'}${facts.currentSlot === null ? '' : `, slot ${facts.currentSlot}`}`),
    ],
  };
}

/** A connection to the bootloader on which this handset was read once more: nothing is written to another, a locked or an empty one. */
export async function readyToWrite<T>(running: Running, work: (client: BootloaderClient, reading: BootloaderReading) => Promise<T>): Promise<T> {
  const { handset, facts, profile, slotCount, step } = running;
  return withBootloader(profile, async (client) => {
    const reading = await readBootloader(client, handset.id, facts.device);
    if (reading.unlocked !== true) throw new EternoError('refused', 'The bootloader says it is locked. Nothing is written.');
    if (slotCount === 2 && reading.slot !== step.planned.slot)
      throw new EternoError(
        'refused',
        `Slot ${reading.slot} is active now, the round was checked for slot ${step.planned.slot}. Nothing is written.`,
      );
    if (reading.batteryOk === false) throw new EternoError('refused', 'The handset says its battery is too low for a write. Charge it first.');
    return work(client, reading);
  });
}

export async function keepBootloaderFacts({ handset, profile, facts }: Running): Promise<BootloaderReading> {
  const reading = await withBootloader(profile, (client) => readBootloader(client, handset.id, facts.device)).catch((thrown: unknown) => {
    const error = toEternoError(thrown);
    throw error.code === 'link-lost'
      ? new EternoError('link-lost', 'The handset is not in its bootloader yet, or its cable is out.', { cause: error })
      : error;
  });
  await applyFacts(handset.id, reading.text, 'link');
  return reading;
}

/** Below this nothing is written. */
const LEAST_BATTERY = 30;
const TEXT_FACTS = { snapshot: { none: 'none', waiting: 'snapshotted', merging: 'merging' } } as const;

export interface SystemStatus {
  readonly rootApp: 'absent' | 'unfinished' | 'ready';
  readonly modules: ModulesState;
  readonly update: { readonly slot: string; readonly build: string } | null;
  readonly snapshot: 'none' | 'waiting' | 'merging';
  readonly batteryPercent: number;
}

export const systemStatus = (profile: string) =>
  withSystem(profile, async (client) => (await client.ask({ do: 'status' })) as unknown as SystemStatus);

const toldModules = ({ ids, versions = {} }: ModulesState) => installedText(ids.map((id) => ({ id, version: versions[id] ?? null })));

/** Everything the running system says, kept as facts. @throws {EternoError} `refused` for another handset, `link-lost` */
export async function keepSystemFacts({ handset, profile }: Pick<Running, 'handset' | 'profile'>) {
  const facts = await applyFacts(handset.id, await propertyDump(profile), 'link');
  const status = await systemStatus(profile);
  const told = [
    { key: 'snapshot', value: TEXT_FACTS.snapshot[status.snapshot] },
    { key: 'modules', value: toldModules(status.modules) },
    { key: 'rootApp', value: status.rootApp },
    { key: 'batteryOk', value: String(status.batteryPercent >= LEAST_BATTERY) },
  ];
  await insertFacts(handset.id, told, { source: 'link', witness: 'system', at: now() });
  return { facts, status };
}

/** @throws {EternoError} `refused` where it is too low for a write, whatever mode the handset stands in */
export function needBattery(percent: number | null): void {
  if (percent !== null && percent < LEAST_BATTERY)
    throw new EternoError('refused', `Its battery is at ${percent} %: under ${LEAST_BATTERY} % nothing is written. Charge it first.`);
}

/** The battery as the running system says it now, before something is written from inside. @throws {EternoError} `refused`, `link-lost` */
export async function readyInside({ handset, profile }: Pick<Running, 'handset' | 'profile'>): Promise<SystemStatus> {
  const status = await systemStatus(profile);
  await keepBattery(handset.id, status.batteryPercent, 'system');
  needBattery(status.batteryPercent);
  return status;
}

/** Whether the battery is fit for a write as the handset says it now, in whatever mode it answers; null where it does not. */
export async function batteryLevel(profile: string): Promise<boolean | null> {
  const line = await ifAnswers(withSystem(profile, (client) => client.ask({ do: 'listed' })));
  if (line !== null) return typeof line['batteryPercent'] === 'number' ? line['batteryPercent'] >= LEAST_BATTERY : null;
  const level = await ifAnswers(withBootloader(profile, (client) => client.variable('battery-soc-ok')));
  return level === null ? null : level === 'yes';
}

const keepBattery = (handsetId: string, percent: number, witness: Witness) =>
  insertFacts(handsetId, [{ key: 'batteryOk', value: String(percent >= LEAST_BATTERY) }], { source: 'link', witness, at: now() });

/** The same outside the system: nothing is written to another handset, or to one that is nearly empty. @throws {EternoError} `refused`, `link-lost` */
export async function readyListed(running: Running, mode: 'recovery' | 'sideload' | 'download') {
  const listed = await keepListed(running, mode);
  needBattery(listed.batteryPercent);
  return listed;
}

/** The handset's line in the list: serial and mode word. @throws {EternoError} `refused` for another handset, `link-lost` where none is listed so */
export async function keepListed(
  { handset, profile }: Running,
  mode: 'recovery' | 'sideload' | 'download',
): Promise<{ recovery: string | null; batteryPercent: number | null; evidence: Evidence[] }> {
  const line = await withSystem(profile, (client) => client.ask({ do: 'listed' }));
  if (line['mode'] !== mode) throw new EternoError('link-lost', `The handset is listed as ${String(line['mode'])}, not as ${mode}.`);
  const serial = await readSecret(handset.id, 'serial');
  if (serial === null || line['serial'] !== serial)
    throw new EternoError('refused', 'The handset that is listed has another serial. Nothing is done to it.');
  if (typeof line['unlocked'] === 'boolean')
    await insertFacts(handset.id, [{ key: 'unlocked', value: String(line['unlocked']) }], { source: 'link', witness: 'bootloader', at: now() });
  const batteryPercent = typeof line['batteryPercent'] === 'number' ? line['batteryPercent'] : null;
  if (batteryPercent !== null) await keepBattery(handset.id, batteryPercent, 'bootloader');
  return { recovery: (line['recovery'] as string | null) ?? null, batteryPercent, evidence: [strong(`listed as ${mode}, with its own serial`)] };
}

const POLL_MS = 150;

/** Waits for something on the handset, until the step is stopped or the time is over. */
export async function until<T>({ watch }: Running, phase: string, timeoutMs: number, look: () => Promise<T | null>): Promise<T> {
  const began = now();
  for (;;) {
    throwIfAborted(watch.signal);
    const found = await look();
    if (found !== null) return found;
    const waited = now() - began;
    if (waited > timeoutMs) throw new EternoError('handset-refused', `It did not come within ${Math.round(timeoutMs / 60_000)} min.`);
    watch.onProgress({ phase, doneBytes: Math.min(waited, timeoutMs), totalBytes: timeoutMs });
    await pause(POLL_MS);
  }
}

/** What is only there while the handset answers: null where it does not. */
export const ifAnswers = <T>(work: Promise<T>): Promise<T | null> =>
  work.catch((thrown: unknown) => {
    if (toEternoError(thrown).code === 'link-lost') return null;
    throw thrown;
  });

export const modeNow = async (profile: string) => (await standInView(profile))?.state.mode ?? null;

/** Asks for root and waits for the prompt on the handset. @throws {EternoError} `handset-refused` where it was denied */
export async function askForRoot(client: SystemClient): Promise<string> {
  const answer = await client.ask({ do: 'root' });
  if (answer['granted'] !== true) throw new EternoError('handset-refused', `Root was not granted: ${String(answer['reason'])}.`);
  return String(answer['uid']);
}

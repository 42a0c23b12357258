import 'server-only';
import type { FactChange, FactPreview, FactSource, FactView } from '@/contracts/handset-view';
import { EternoError } from '@/core/errors';
import type { HandsetFacts } from '@/core/formats/facts/parse-facts';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import type { FactRow } from '../db/models';
import { factsOf, insertFacts, readSecret, writeSecret } from '../repositories/handset-repository';
import { now } from './clock';

/** Facts as they are kept: one flat key each, the serial apart. */
export const FACT_LABELS: Readonly<Record<string, string>> = {
  fingerprint: 'Fingerprint',
  device: 'Code name',
  model: 'Model',
  buildId: 'Build number',
  incrementalVersion: 'Incremental',
  release: 'Release',
  sdk: 'Platform level',
  patchLevel: 'Patch level',
  firstApiLevel: 'Launched with level',
  slotCount: 'Slots',
  currentSlot: 'Active slot',
  unlocked: 'Bootloader unlocked',
  bootloader: 'Bootloader',
  baseband: 'Radio',
  batteryOk: 'Battery fit for a write',
  maxDownloadSize: 'Largest download',
};
const SIZE_PREFIX = 'partition-size:';
const labelOf = (key: string) => FACT_LABELS[key] ?? (key.startsWith(SIZE_PREFIX) ? `Size of ${key.slice(SIZE_PREFIX.length)}` : key);

function flatten(facts: HandsetFacts): { key: string; value: string }[] {
  const out: { key: string; value: string }[] = [];
  for (const key of Object.keys(FACT_LABELS)) {
    const value = facts[key as keyof HandsetFacts];
    if (value !== null && typeof value !== 'object') out.push({ key, value: String(value) });
  }
  for (const [name, { size }] of Object.entries(facts.partitions)) if (size !== null) out.push({ key: SIZE_PREFIX + name, value: String(size) });
  return out;
}

/** The newest telling of each fact. */
export async function currentFacts(handsetId: string): Promise<ReadonlyMap<string, Readonly<FactRow>>> {
  const newest = new Map<string, Readonly<FactRow>>();
  for (const row of await factsOf(handsetId)) if (!newest.has(row.key)) newest.set(row.key, row);
  return newest;
}

export function factViews(facts: ReadonlyMap<string, Readonly<FactRow>>): FactView[] {
  const order = Object.keys(FACT_LABELS);
  const rank = (key: string) => (order.indexOf(key) < 0 ? order.length : order.indexOf(key));
  return [...facts.values()]
    .map(({ key, value, source, at }) => ({ key, label: labelOf(key), value, source, at }))
    .sort((a, b) => rank(a.key) - rank(b.key) || a.key.localeCompare(b.key));
}

/** Kept facts as typed values again. */
export function typedFacts(facts: ReadonlyMap<string, Readonly<FactRow>>): HandsetFacts {
  const text = (key: string) => facts.get(key)?.value ?? null;
  const number = (key: string) => (facts.has(key) ? Number(text(key)) : null);
  const flag = (key: string) => (facts.has(key) ? text(key) === 'true' : null);
  const partitions: Record<string, { size: number | null; hasSlot: boolean | null; logical: boolean | null }> = {};
  for (const [key, { value }] of facts)
    if (key.startsWith(SIZE_PREFIX)) partitions[key.slice(SIZE_PREFIX.length)] = { size: Number(value), hasSlot: null, logical: null };
  return {
    fingerprint: text('fingerprint'),
    device: text('device'),
    model: text('model'),
    buildId: text('buildId'),
    incrementalVersion: text('incrementalVersion'),
    release: text('release'),
    sdk: number('sdk'),
    patchLevel: text('patchLevel'),
    firstApiLevel: number('firstApiLevel'),
    slotCount: number('slotCount'),
    currentSlot: text('currentSlot'),
    unlocked: flag('unlocked'),
    bootloader: text('bootloader'),
    baseband: text('baseband'),
    serial: null,
    batteryOk: flag('batteryOk'),
    maxDownloadSize: number('maxDownloadSize'),
    partitions,
  };
}

/** @throws {EternoError} `bad-field` when nothing in the text can be read, `too-large` */
export function readText(text: string): {
  facts: HandsetFacts;
  flat: { key: string; value: string }[];
  kind: FactPreview['kind'];
  unread: readonly string[];
} {
  const printed = parsePrinted(text);
  if (printed.kind === 'nothing') throw new EternoError('bad-field', 'Nothing in this text is a property or a bootloader variable.');
  const facts = interpretFacts(printed.values);
  return { facts, flat: flatten(facts), kind: printed.kind, unread: printed.unread };
}

export async function previewFacts(handsetId: string, text: string): Promise<FactPreview> {
  const { facts, flat, kind, unread } = readText(text);
  const current = await currentFacts(handsetId);
  const changes: FactChange[] = flat
    .filter(({ key, value }) => current.get(key)?.value !== value)
    .map(({ key, value }) => ({ key, label: labelOf(key), before: current.get(key)?.value ?? null, after: value }));
  const known = await readSecret(handsetId, 'serial');
  return {
    kind,
    changes,
    same: flat.length - changes.length,
    unread,
    serialSame: known === null || facts.serial === null ? null : known === facts.serial,
  };
}

/** Keeps what was printed. @throws {EternoError} `refused` when it is another handset's serial */
export async function applyFacts(handsetId: string, text: string, source: FactSource): Promise<HandsetFacts> {
  const { facts, flat } = readText(text);
  const known = await readSecret(handsetId, 'serial');
  if (facts.serial !== null && known !== null && known !== facts.serial) {
    throw new EternoError('refused', 'The serial is another handset’s: nothing of this text was kept.');
  }
  if (facts.serial !== null && known === null) await writeSecret(handsetId, 'serial', facts.serial);
  await insertFacts(handsetId, flat, source, now());
  return facts;
}

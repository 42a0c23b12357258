import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/*
 * What a handset prints (docs/formats.md, "Facts a handset prints"): property dumps and bootloader variables.
 */

export interface PrintedText {
  readonly kind: 'properties' | 'bootloader' | 'nothing';
  /** Every key read, with its value as printed. */
  readonly values: Readonly<Record<string, string>>;
  /** Lines that say nothing we can read, as they are. */
  readonly unread: readonly string[];
}

const BRACKETS = /^\[([^\]]+)\]: \[(.*)\]$/;
const NEXT_PROPERTY = /^\[[A-Za-z][\w-]*(\.[\w-]+)+\]: \[/;
const PROPERTY_KEY = /^[a-z][A-Za-z0-9_.-]*$/;
const PREFIX = /^(?:\([a-z -]+\)|\[[a-z -]+\])\s*/i;
const TWO_SEGMENTS = [
  'has-slot',
  'partition-size',
  'partition-type',
  'is-logical',
  'slot-successful',
  'slot-unbootable',
  'slot-retry-count',
];
const KNOWN_VARIABLES = new Set([
  'product',
  'serialno',
  'current-slot',
  'slot-count',
  'unlocked',
  'version-bootloader',
  'version-baseband',
  'max-download-size',
  'battery-voltage',
  'battery-soc-ok',
  'is-userspace',
  'snapshot-update-status',
  'super-partition-name',
  'anti',
  'write-count',
  'warranty-fuse',
  'secure',
  'variant',
  'version',
  'hw-revision',
]);
/** Lines the printing tool adds itself. */
const TOOL_LINE = /^(?:all: Done!|OKAY\b.*|Finished\b.*|FAILED\b.*|<.*>)$/i;

/** Splits what was printed into keys and values. @throws {EternoError} `too-large` */
export function parsePrinted(text: string): PrintedText {
  if (text.length > LIMITS.factsTextBytes)
    throw new EternoError('too-large', 'the text is longer than any handset prints');
  const properties = new Map<string, string>();
  const variables = new Map<string, string>();
  const unread: string[] = [];
  let open: { key: string; value: string } | null = null;
  for (const raw of text.split(/\r\n|\n|\r/)) {
    const line = raw.trim();
    // a value that was cut off does not swallow the next property
    if (open && NEXT_PROPERTY.test(line)) {
      unread.push(`[${open.key}]: [${open.value}`);
      open = null;
    }
    if (open) {
      // a bracketed value that was wrapped goes on until its closing bracket
      const value: string = `${open.value}\n${raw}`;
      if (raw.trimEnd().endsWith(']')) {
        properties.set(open.key, value.trimEnd().slice(0, -1));
        open = null;
      } else open = { key: open.key, value };
      continue;
    }
    if (line === '') continue;
    const bracket = BRACKETS.exec(line);
    if (bracket) {
      properties.set(bracket[1]!, bracket[2]!);
      continue;
    }
    const start = /^\[([^\]\s]+)\]: \[([^\]]*)$/.exec(line);
    if (start) {
      open = { key: start[1]!, value: start[2]! };
      continue;
    }
    if (TOOL_LINE.test(line)) {
      unread.push(line);
      continue;
    }
    const pair = keyAndValue(line);
    if (pair) {
      properties.set(...pair);
      continue;
    }
    const variable = readVariable(line);
    if (variable) variables.set(variable[0], variable[1]);
    else unread.push(line);
  }
  if (open) unread.push(`[${open.key}]: [${open.value}`);
  const kind =
    properties.size === 0 && variables.size === 0
      ? 'nothing'
      : properties.size >= variables.size
        ? 'properties'
        : 'bootloader';
  return { kind, values: Object.fromEntries([...variables, ...properties]), unread };
}

/** A property that stands whole on a line, in brackets or with an equals sign; null where none does. */
export function propertyOf(line: string): readonly [key: string, value: string] | null {
  const bracket = BRACKETS.exec(line);
  return bracket ? [bracket[1]!, bracket[2]!] : keyAndValue(line);
}

/**
 * `key=value`, where the key has a dot inside: cut at the first equals sign, so that a long line is read
 * once.
 */
function keyAndValue(line: string): [string, string] | null {
  const at = line.indexOf('=');
  const key = line.slice(0, Math.max(0, at)).trimEnd();
  return PROPERTY_KEY.test(key) && key.slice(0, -1).includes('.')
    ? [key, line.slice(at + 1).trimStart()]
    : null;
}

function readVariable(line: string): [string, string] | null {
  const prefixed = PREFIX.test(line);
  const bare = line.replace(PREFIX, '');
  const two = TWO_SEGMENTS.find((name) => bare.startsWith(`${name}:`));
  if (two) {
    const match = /^([^:]+:[^:\s]+):\s*(.*)$/.exec(bare);
    return match ? [match[1]!, match[2]!] : null;
  }
  const match = /^([A-Za-z][A-Za-z0-9_.-]*):\s*(.*)$/.exec(bare);
  if (!match || TOOL_LINE.test(bare)) return null;
  return prefixed || KNOWN_VARIABLES.has(match[1]!) ? [match[1]!, match[2]!.trim()] : null;
}

export interface PartitionFacts {
  size: number | null;
  hasSlot: boolean | null;
  logical: boolean | null;
}

/** What is known of a handset; null where nothing was read. Sizes in bytes. */
export interface HandsetFacts {
  readonly fingerprint: string | null;
  readonly device: string | null;
  readonly model: string | null;
  readonly buildId: string | null;
  readonly incrementalVersion: string | null;
  readonly release: string | null;
  readonly sdk: number | null;
  readonly patchLevel: string | null;
  readonly firstApiLevel: number | null;
  readonly slotCount: number | null;
  readonly currentSlot: string | null;
  readonly unlocked: boolean | null;
  readonly bootloader: string | null;
  readonly baseband: string | null;
  readonly serial: string | null;
  readonly batteryOk: boolean | null;
  readonly maxDownloadSize: number | null;
  readonly partitions: Readonly<Record<string, PartitionFacts>>;
}

const number = (text: string | undefined): number | null => {
  if (text === undefined || !/^(0x[0-9a-f]+|\d+)$/i.test(text.trim())) return null;
  const value = Number(text.trim());
  return Number.isSafeInteger(value) ? value : null;
};
/** A flag as handsets print it; null for what is none. */
export const yesOrNo = (text: string | undefined): boolean | null =>
  text === undefined
    ? null
    : /^(yes|true|1)$/i.test(text)
      ? true
      : /^(no|false|0)$/i.test(text)
        ? false
        : null;
/** One line: a terminal breaks long values where its window ends. */
const some = (text: string | undefined): string | null => {
  const line = text
    ?.split('\n')
    .map((one, i, all) => (i < all.length - 1 ? one.trimEnd() : one))
    .join('')
    .trim();
  return line === undefined || line === '' ? null : line;
};

/**
 * The parts of `brand/product/device:release/id/incremental:type/tags`; null when the text is no fingerprint.
 */
export function splitFingerprint(text: string): {
  brand: string;
  product: string;
  device: string;
  release: string;
  id: string;
  incremental: string;
  type: string;
  tags: string;
} | null {
  const match = /^([^/:]+)\/([^/:]+)\/([^/:]+):([^/:]+)\/([^/:]+)\/([^/:]+):([^/:]+)\/([^/:]+)$/.exec(
    text.trim(),
  );
  if (!match) return null;
  const [, brand, product, device, release, id, incremental, type, tags] = match as unknown as string[];
  return {
    brand: brand!,
    product: product!,
    device: device!,
    release: release!,
    id: id!,
    incremental: incremental!,
    type: type!,
    tags: tags!,
  };
}

/** A slot's letter, from the suffix or the letter that is printed. */
export const slotOf = (printed: string): string => printed.replace(/^_/, '');

/** Reads the values a handset printed as facts. */
export function interpretFacts(values: Readonly<Record<string, string>>): HandsetFacts {
  const fingerprint = some(values['ro.build.fingerprint']);
  const parts = fingerprint ? splitFingerprint(fingerprint) : null;
  const locked = yesOrNo(values['ro.boot.flash.locked']);
  const state = values['ro.boot.vbmeta.device_state'];
  const slot = some(values['current-slot']) ?? some(values['ro.boot.slot_suffix']);
  const partitions: Record<string, PartitionFacts> = {};
  const partition = (name: string): PartitionFacts =>
    (partitions[name] ??= { size: null, hasSlot: null, logical: null });
  for (const [key, value] of Object.entries(values)) {
    const [head, name] = key.split(':');
    if (!name || name === '__proto__') continue;
    if (head === 'has-slot') partition(name).hasSlot = yesOrNo(value);
    if (head === 'partition-size') partition(name).size = number(value);
    if (head === 'is-logical') partition(name).logical = yesOrNo(value);
  }
  return {
    fingerprint,
    device: some(values['ro.product.device']) ?? some(values['product']) ?? parts?.device ?? null,
    model: some(values['ro.product.model']),
    buildId: some(values['ro.build.id']) ?? parts?.id ?? null,
    incrementalVersion: some(values['ro.build.version.incremental']) ?? parts?.incremental ?? null,
    release: some(values['ro.build.version.release']) ?? parts?.release ?? null,
    sdk: number(values['ro.build.version.sdk']),
    patchLevel: some(values['ro.build.version.security_patch']),
    firstApiLevel: number(values['ro.product.first_api_level']),
    slotCount: number(values['slot-count']) ?? (slot ? 2 : null),
    currentSlot: slot ? slotOf(slot) : null,
    unlocked:
      yesOrNo(values['unlocked']) ??
      (locked === null ? (state === 'unlocked' ? true : state === 'locked' ? false : null) : !locked),
    bootloader: some(values['version-bootloader']) ?? some(values['ro.bootloader']),
    baseband: some(values['version-baseband']) ?? some(values['gsm.version.baseband']),
    serial: some(values['serialno']) ?? some(values['ro.serialno']) ?? some(values['ro.boot.serialno']),
    batteryOk: yesOrNo(values['battery-soc-ok']),
    maxDownloadSize: number(values['max-download-size']),
    partitions,
  };
}

import type { HandsetFacts } from '../formats/facts/parse-facts';
import { CHANNEL_WORDS } from '../words/root-app';
import { interpretFacts } from '../formats/facts/parse-facts';

/* Every fact that is kept of a handset (docs/method.md, "Facts and their sources"). */

export type FactGroup = 'Build' | 'Handset' | 'Slots' | 'Bootloader' | 'Floors' | 'Record' | 'Partitions';

export interface FactKind {
  readonly label: string;
  readonly group: FactGroup;
  /** After so many days it is marked as stale; null for what a handset keeps all its life. */
  readonly staleDays: number | null;
  /** May differ between two readings without either being wrong. */
  readonly changes: boolean;
  /** Changes by itself, at any moment: the newest reading counts. */
  readonly byItself?: boolean;
}

const fixed = (label: string, group: FactGroup): FactKind => ({
  label,
  group,
  staleDays: null,
  changes: false,
});
const changing = (label: string, group: FactGroup, staleDays: number): FactKind => ({
  label,
  group,
  staleDays,
  changes: true,
});
const moving = (label: string, group: FactGroup, staleDays: number): FactKind => ({
  label,
  group,
  staleDays,
  changes: true,
  byItself: true,
});

export const FACT_KINDS = {
  fingerprint: changing('Fingerprint', 'Build', 35),
  buildId: changing('Build number', 'Build', 35),
  displayId: changing('Shown build number', 'Build', 35),
  incrementalVersion: changing('Incremental', 'Build', 35),
  patchLevel: changing('Patch level', 'Build', 35),
  release: changing('Release', 'Build', 120),
  sdk: changing('Platform level', 'Build', 120),
  device: fixed('Code name', 'Handset'),
  model: fixed('Model', 'Handset'),
  region: fixed('Region or carrier', 'Handset'),
  firstApiLevel: fixed('Launched with level', 'Handset'),
  boardFirstApiLevel: fixed('Board launched with level', 'Handset'),
  virtualAb: fixed('Updates by snapshot', 'Handset'),
  dynamicPartitions: fixed('Logical partitions', 'Handset'),
  encrypted: changing('Data encrypted', 'Handset', 120),
  slotCount: fixed('Slots', 'Slots'),
  currentSlot: changing('Active slot', 'Slots', 7),
  'slot-successful:a': moving('Slot a proven', 'Slots', 7),
  'slot-successful:b': moving('Slot b proven', 'Slots', 7),
  'slot-unbootable:a': moving('Slot a given up', 'Slots', 7),
  'slot-unbootable:b': moving('Slot b given up', 'Slots', 7),
  'slot-retry-count:a': moving('Tries left on slot a', 'Slots', 7),
  'slot-retry-count:b': moving('Tries left on slot b', 'Slots', 7),
  snapshot: moving('Waiting update', 'Slots', 2),
  unlocked: changing('Bootloader unlocked', 'Bootloader', 60),
  unlockAllowed: changing('Unlock switch', 'Bootloader', 60),
  bootloader: changing('Bootloader', 'Bootloader', 35),
  baseband: changing('Radio', 'Bootloader', 35),
  batteryOk: moving('Battery fit for a write', 'Bootloader', 1 / 24),
  maxDownloadSize: fixed('Largest download', 'Bootloader'),
  unlockPath: fixed('Way to unlock', 'Bootloader'),
  startsOnce: fixed('Starts from memory', 'Bootloader'),
  downloadMode: fixed('Download mode', 'Bootloader'),
  bootloaderWrites: fixed('Bootloader writes', 'Bootloader'),
  restoresRecovery: fixed('Puts its own recovery back', 'Bootloader'),
  antiRollback: changing('Bootloader fuse', 'Floors', 120),
  storedIndex: changing('Stored rollback index', 'Floors', 120),
  makerFloor: changing('Oldest build the maker lets in', 'Floors', 120),
  verifiedBootState: changing('Verified-boot banner', 'Record', 35),
  modules: changing('Modules', 'Record', 35),
  rootApp: moving('Root app', 'Record', 35),
  rootAppVersion: moving('Root app, version code', 'Record', 35),
  rootAppChannel: moving('Root app, channel', 'Record', 35),
  rootAppHidden: moving('Root app hidden', 'Record', 35),
  rootAppPinned: moving('Root app without its own updates', 'Record', 35),
  bootId: moving('Name of its last start', 'Record', 1),
  fuse: moving('Warranty fuse', 'Record', 365),
  writeCounter: moving('Write counter', 'Record', 365),
} as const satisfies Record<string, FactKind>;

export type FactKey = keyof typeof FACT_KINDS;
/** Kept to be compared, and nothing to a person. */
export const UNSHOWN_FACTS: readonly string[] = ['bootId'] satisfies FactKey[];
/** The partition's size in bytes, by the partition's name. */
export const SIZE_PREFIX = 'partition-size:';
const SIZE_KIND: FactKind = fixed('Size of', 'Partitions');

export const isFactKey = (key: string): key is FactKey => Object.hasOwn(FACT_KINDS, key);

export function factKind(key: string): FactKind {
  if (isFactKey(key)) return FACT_KINDS[key];
  return key.startsWith(SIZE_PREFIX)
    ? { ...SIZE_KIND, label: `Size of ${key.slice(SIZE_PREFIX.length)}` }
    : { ...SIZE_KIND, label: key };
}

const ORDER = Object.keys(FACT_KINDS);
const rankOf = (key: string) => (ORDER.indexOf(key) < 0 ? ORDER.length : ORDER.indexOf(key));
/** In the order a person reads a passport. */
export const byFactOrder = (a: string, b: string) => rankOf(a) - rankOf(b) || (a < b ? -1 : a > b ? 1 : 0);

/** What a person may type when no dump says it; everything else is read. */
export const TYPED_FACTS: readonly FactKey[] = [
  'region',
  'unlockAllowed',
  'unlockPath',
  'startsOnce',
  'downloadMode',
  'bootloaderWrites',
  'restoresRecovery',
  'snapshot',
  'storedIndex',
  'makerFloor',
  'antiRollback',
  'modules',
  'rootAppVersion',
  'rootAppChannel',
  'rootAppHidden',
  'rootAppPinned',
  'fuse',
  'writeCounter',
];

/** What is so for every handset of a model: said of one, it is taken for the others until they say otherwise. */
export const MODEL_FACTS: readonly FactKey[] = [
  'unlockPath',
  'startsOnce',
  'downloadMode',
  'bootloaderWrites',
  'restoresRecovery',
];

const YES_NO = ['yes', 'no'].map((value) => ({ value, label: value }));

/** What a typed fact can be, and how it is said; any text where nothing stands here. */
export const FACT_CHOICES: Readonly<
  Partial<Record<FactKey, readonly { readonly value: string; readonly label: string }[]>>
> = {
  unlockAllowed: [
    { value: 'on', label: 'on' },
    { value: 'off', label: 'off' },
    { value: 'greyed', label: 'greyed' },
    { value: 'hidden', label: 'hidden by a guard setting' },
    { value: 'absent', label: 'absent' },
  ],
  startsOnce: YES_NO,
  downloadMode: YES_NO,
  bootloaderWrites: YES_NO,
  restoresRecovery: YES_NO,
  rootAppChannel: Object.entries(CHANNEL_WORDS).map(([value, label]) => ({ value, label })),
  rootAppHidden: YES_NO,
  rootAppPinned: YES_NO,
  snapshot: [
    { value: 'none', label: 'no update waits' },
    { value: 'snapshotted', label: 'one waits for its restart' },
    { value: 'merging', label: 'one is still being finished' },
  ],
};

/** A kept fact as a person says it. */
export const factWord = (value: string) => (value === 'true' ? 'yes' : value === 'false' ? 'no' : value);

export interface FlatFact {
  readonly key: string;
  /** Flags as `true` and `false`, numbers in decimal. */
  readonly value: string;
}

const yesNo = (text: string | undefined): string | null =>
  text === undefined
    ? null
    : /^(1|true|yes)$/i.test(text.trim())
      ? 'true'
      : /^(0|false|no)$/i.test(text.trim())
        ? 'false'
        : null;
const text = (value: string | undefined): string | null =>
  value === undefined || value.trim() === '' ? null : value.trim();

function beyond(values: Readonly<Record<string, string>>): Partial<Record<FactKey, string | null>> {
  const crypto = text(values['ro.crypto.state']);
  const out: Partial<Record<FactKey, string | null>> = {
    displayId: text(values['ro.build.display.id']),
    boardFirstApiLevel: text(values['ro.board.first_api_level']),
    virtualAb: yesNo(values['ro.virtual_ab.enabled']),
    dynamicPartitions: yesNo(values['ro.boot.dynamic_partitions']),
    encrypted:
      crypto === null ? null : crypto === 'encrypted' ? 'true' : crypto === 'unencrypted' ? 'false' : null,
    snapshot: text(values['snapshot-update-status']),
    unlockAllowed:
      values['sys.oem_unlock_allowed'] === undefined
        ? null
        : yesNo(values['sys.oem_unlock_allowed']) === 'true'
          ? 'on'
          : 'off',
    antiRollback: text(values['anti']),
    writeCounter: text(values['write-count'] ?? values['ro.boot.write_count']),
    fuse: text(values['warranty-fuse'] ?? values['ro.boot.warranty_fuse']),
    verifiedBootState: text(values['ro.boot.verifiedbootstate']),
  };
  for (const slot of ['a', 'b'] as const) {
    out[`slot-successful:${slot}`] = yesNo(values[`slot-successful:${slot}`]);
    out[`slot-unbootable:${slot}`] = yesNo(values[`slot-unbootable:${slot}`]);
    out[`slot-retry-count:${slot}`] = text(values[`slot-retry-count:${slot}`]);
  }
  return out;
}

/** Everything worth keeping in the values a handset printed; the serial is not among it. */
export function flattenPrinted(values: Readonly<Record<string, string>>): FlatFact[] {
  const facts: HandsetFacts = interpretFacts(values);
  const more = beyond(values);
  const out: FlatFact[] = [];
  for (const key of ORDER) {
    const told = key in facts ? facts[key as keyof HandsetFacts] : more[key as FactKey];
    if (told !== null && told !== undefined && typeof told !== 'object')
      out.push({ key, value: String(told) });
  }
  for (const [name, { size }] of Object.entries(facts.partitions))
    if (size !== null) out.push({ key: SIZE_PREFIX + name, value: String(size) });
  return out;
}

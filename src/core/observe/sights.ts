import { propertyOf, slotOf, yesOrNo } from '../formats/facts/parse-facts';
import type { ObservedMode, Witness } from './expectation';
import type { PrintedLine } from './clean-lines';

/* What single lines show, whatever the step: facts, what a tool did, who is listed, hashes, root. */

export type Sight =
  | {
      readonly kind: 'fact';
      readonly fact: 'serial' | 'product' | 'slot' | 'lock' | 'mode' | 'fingerprint' | 'buildId';
      readonly value: string;
      readonly witness: Witness;
    }
  | {
      readonly kind: 'listed';
      readonly serial: string;
      readonly mode: ObservedMode | 'offline' | 'no-permission';
      readonly product: string | null;
    }
  /** `ok` is null where the line ends before its result. */
  | {
      readonly kind: 'deed';
      readonly deed: 'send' | 'write' | 'erase' | 'start';
      readonly name: string;
      readonly kib: number | null;
      /** Parts of the same image that are still to come. */
      readonly left: number;
      readonly ok: boolean | null;
    }
  | { readonly kind: 'result'; readonly ok: boolean }
  | { readonly kind: 'path'; readonly name: string }
  | { readonly kind: 'records'; readonly way: 'in' | 'out'; readonly whole: number; readonly part: number }
  | { readonly kind: 'copied'; readonly bytes: number }
  | {
      readonly kind: 'pushed';
      readonly files: number;
      readonly file: string | null;
      readonly bytes: number | null;
    }
  | { readonly kind: 'pushing'; readonly file: string }
  | { readonly kind: 'share'; readonly share: number; readonly file: string | null }
  | { readonly kind: 'installed' }
  | { readonly kind: 'hash'; readonly sha256: string; readonly name: string | null }
  | { readonly kind: 'uid'; readonly uid: number }
  | { readonly kind: 'already'; readonly lock: 'unlocked' | 'locked' }
  | { readonly kind: 'waiting' | 'last-answer' | 'mount-error' | 'noise' };

const UNDERSTOOD: Sight = { kind: 'noise' };

/** What the running system says of itself. */
const PROPERTIES: Readonly<Record<string, (value: string) => Sight | null>> = {
  'ro.build.fingerprint': (value) => systemFact('fingerprint', value),
  'ro.build.id': (value) => systemFact('buildId', value),
  'ro.serialno': (value) => systemFact('serial', value),
  'ro.boot.serialno': (value) => systemFact('serial', value),
  'ro.product.device': (value) => systemFact('product', value),
  'ro.boot.slot_suffix': (value) => systemFact('slot', slotOf(value)),
  'ro.boot.slot': (value) => systemFact('slot', slotOf(value)),
};
const systemFact = (fact: Extract<Sight, { kind: 'fact' }>['fact'], value: string): Sight | null =>
  value === '' ? null : { kind: 'fact', fact, value, witness: 'system' };

function propertySights(key: string, value: string): Sight[] {
  const inRecovery =
    (/^ro\.(?:boot\.?)?mode$/.test(key) && value === 'recovery') ||
    (key === 'init.svc.recovery' && value === 'running');
  const mode: Sight = {
    kind: 'fact',
    fact: 'mode',
    value: inRecovery ? 'recovery' : 'system',
    witness: inRecovery ? 'recovery' : 'system',
  };
  const own = PROPERTIES[key]?.(value) ?? null;
  return [mode, own ?? UNDERSTOOD];
}

const VARIABLE = /^(?:\([a-z -]+\)\s*|\[[a-z -]+\]\s*)?([a-z][\w-]*)\s?[:=]\s*(.*)$/i;

type VariableReader = (value: string) => Sight | null;
const bootFact = (fact: Extract<Sight, { kind: 'fact' }>['fact'], value: string): Sight | null =>
  value === '' ? null : { kind: 'fact', fact, value, witness: 'bootloader' };
const flagAs = (value: string, fact: 'lock' | 'mode', yes: string, no: string): Sight | null => {
  const flag = yesOrNo(value);
  return flag === null ? null : bootFact(fact, flag ? yes : no);
};

/** Variables by their names in lower case; those that say nothing here are only understood. */
const VARIABLES: Readonly<Record<string, VariableReader>> = {
  product: (value) => bootFact('product', value),
  serialno: (value) => bootFact('serial', value),
  serial: (value) => bootFact('serial', value),
  'current-slot': (value) => bootFact('slot', slotOf(value)),
  unlocked: (value) => flagAs(value, 'lock', 'unlocked', 'locked'),
  locked: (value) => flagAs(value, 'lock', 'locked', 'unlocked'),
  'device-state': (value) => (/^(?:un)?locked$/i.test(value) ? bootFact('lock', value.toLowerCase()) : null),
  'is-userspace': (value) => flagAs(value, 'mode', 'userspace', 'bootloader'),
};
const OTHER_VARIABLES =
  /^(?:slot-count|secure|variant|version(?:-\w+)?|hw-revision|max-\S+|battery-\S+|anti|write-count|warranty-\S+|snapshot-\S+|super-\S+|has-slot|partition-(?:size|type)|is-logical|slot-\S+|erase-\S+|logical-\S+|kernel|off-mode-\S+|charger-\S+)$/i;

function variableSights(text: string): Sight[] | null {
  const unlockedWord = /^(?:\([a-z -]+\)\s*)?device unlocked:\s*(\w+)/i.exec(text);
  if (unlockedWord) return [flagAs(unlockedWord[1]!, 'lock', 'unlocked', 'locked') ?? UNDERSTOOD];
  const [, name, value] = VARIABLE.exec(text) ?? [];
  if (name === undefined) return null;
  const reader = VARIABLES[name.toLowerCase()];
  const seenAt = bootFact('mode', 'bootloader')!;
  if (!reader) return OTHER_VARIABLES.test(name) ? [seenAt, UNDERSTOOD] : null;
  const own = reader(value!.trim()) ?? UNDERSTOOD;
  return own.kind === 'fact' && own.fact === 'mode' ? [own] : [seenAt, own];
}

const LISTED =
  /^([\w.:?*-]+)\s+(?:\w+ )?(device|recovery|sideload|rescue|unauthorized|authorizing|offline|bootloader|no permissions|[a-z]+bootd?)(?:\s*(?:$|[;(].*)|\s+(\w+:\S.*))$/i;
/** A serial has a digit in it, or nobody may ask for it. */
const LIKE_A_SERIAL = /\d|^\?+$/;
function listedAs(word: string): Extract<Sight, { kind: 'listed' }>['mode'] | null {
  const low = word.toLowerCase();
  if (low === 'device') return 'system';
  if (low === 'recovery' || low === 'rescue') return 'recovery';
  if (low === 'sideload') return 'sideload';
  if (low === 'offline') return 'offline';
  if (/^(?:unauthorized|authorizing|no permissions)/.test(low)) return 'no-permission';
  return low.endsWith('bootd') ? 'userspace' : 'bootloader';
}

const DEEDS: Readonly<Record<string, Extract<Sight, { kind: 'deed' }>['deed']>> = {
  sending: 'send',
  downloading: 'send',
  uploading: 'send',
  writing: 'write',
  flashing: 'write',
  erasing: 'erase',
  booting: 'start',
};
const DEED =
  /^(sending|downloading|uploading|writing|flashing|erasing|booting)\b(?:\s+(?:sparse\s+)?'([^']+)')?(?:\s+(\d+\/\d+))?(?:\s+\((\d+)\s*K(?:i?B)?\))?\s*(?:\.{2,}\s*)?(.*)$/i;
const DONE_BY_WORDS =
  /^(?:flash(?:ing)? of |wrote |written:? )?'?([\w-]+?)'?:? (?:(?:was )?(?:written|flashed)|upload successful|done)\b/i;
const GOOD = /^(?:OKAY|ok|done|success(?:ful)?)\b/i;
const BAD = /^(?:FAILED|FAIL|not ok|error)\b/i;
const resultOf = (text: string): boolean | null => (GOOD.test(text) ? true : BAD.test(text) ? false : null);

function deedSights(text: string): Sight[] | null {
  const match = DEED.exec(text);
  if (match) {
    const [, verb, name, part, kib, rest] = match;
    const ok = resultOf(rest!);
    const deed = DEEDS[verb!.toLowerCase()]!;
    const [n, of] = (part ?? '1/1').split('/').map(Number);
    const whole = part === undefined && kib !== undefined;
    return [{ kind: 'deed', deed, name: name ?? '', kib: whole ? Number(kib) : null, left: of! - n!, ok }];
  }
  const done = DONE_BY_WORDS.exec(text);
  if (done) return [{ kind: 'deed', deed: 'write', name: done[1]!, kib: null, left: 0, ok: true }];
  const result = resultOf(text);
  return result === null ? null : [{ kind: 'result', ok: result }];
}

const BY_NAME = /\/by-name\/([A-Za-z0-9_]+)/;
const HASH_FIRST = /^([0-9a-f]{64})(?:\s+\*?(\S.*))?$/i;
const HASH_TABLE = /^SHA256\s+([0-9a-f]{64})\s+(\S.*)$/i;
const HASH_LAST = /^SHA(?:2-)?256\s?\((.+)\)\s?=\s?([0-9a-f]{64})$/i;

function hashSights(text: string): Sight[] | null {
  const first = HASH_FIRST.exec(text);
  if (first) return [{ kind: 'hash', sha256: first[1]!.toLowerCase(), name: first[2] ?? null }];
  const last = HASH_LAST.exec(text);
  if (last) return [{ kind: 'hash', sha256: last[2]!.toLowerCase(), name: last[1]! }];
  const table = HASH_TABLE.exec(text);
  return table ? [{ kind: 'hash', sha256: table[1]!.toLowerCase(), name: table[2]! }] : null;
}

const fileOf = (path: string) => path.split(/[\\/]/).at(-1)!;

/** Counts and shares of block copies, pushes and sideloads. */
function transferSights(text: string): Sight[] | null {
  const records = /^(\d+)\+(\d+) records (in|out)$/i.exec(text);
  if (records)
    return [
      {
        kind: 'records',
        way: records[3]!.toLowerCase() as 'in' | 'out',
        whole: Number(records[1]),
        part: Number(records[2]),
      },
    ];
  const copied = /^(\d+) bytes .*cop(?:ied|y)/i.exec(text);
  if (copied) return [{ kind: 'copied', bytes: Number(copied[1]) }];
  const pushed = /^(?:(.+?): )?(\d+) files? pushed\b(?:.*\((\d+) bytes)?/i.exec(text);
  if (pushed)
    return [
      {
        kind: 'pushed',
        files: Number(pushed[2]),
        file: pushed[1] === undefined ? null : fileOf(pushed[1]),
        bytes: pushed[3] === undefined ? null : Number(pushed[3]),
      },
    ];
  const rate = /^[\d.]+ [KMG]i?B\/s \((\d+) bytes in\b/i.exec(text);
  if (rate) return [{ kind: 'pushed', files: 1, file: null, bytes: Number(rate[1]) }];
  const pushing = /^(\S+) -> \S+$/.exec(text);
  if (pushing) return [{ kind: 'pushing', file: fileOf(pushing[1]!) }];
  const percent = /^(?:serving|sending|sideloading): '?([^']+?)'?\s+\(?~?(\d+) ?%\)?/i.exec(text);
  if (percent) return [{ kind: 'share', share: Number(percent[2]) / 100, file: fileOf(percent[1]!) }];
  const times = /^total x?fer: ([\d.]+)x/i.exec(text);
  if (times) return [{ kind: 'share', share: Number(times[1]), file: null }];
  if (/^install(?:ation|ed)?\b.*(?:complete|with status 0)/i.test(text)) return [{ kind: 'installed' }];
  return null;
}

const NOISE =
  /^(?:all:?\s*(?:done!?)?|finished\b.*|list of devices\b.*|\[ *\d+%\].*|rebooting\b.*|resizing\b.*|< ?done ?>|\* daemon\b.*|> ?.*|\.+)$/i;

const SIMPLE: readonly (readonly [RegExp, Sight])[] = [
  [/^[<-]?\s*waiting for\b/i, { kind: 'waiting' }],
  [/failed to read command: success/i, { kind: 'last-answer' }],
  [/^E:\s?(?:failed|unable) to mount\b|^(?:failed|unable) to mount\b/i, { kind: 'mount-error' }],
  [/\balready\b[^a-z]*unlocked\b/i, { kind: 'already', lock: 'unlocked' }],
  [/\balready\b[^a-z]*locked\b/i, { kind: 'already', lock: 'locked' }],
];

/** What a line shows; null where nothing of it is understood. */
export function sightsOf({ text, typed }: PrintedLine): readonly Sight[] | null {
  if (text === '') return [];
  const path = BY_NAME.exec(text);
  const paths: Sight[] = path ? [{ kind: 'path', name: path[1]! }] : [];
  const property = propertyOf(text);
  if (property) return propertySights(property[0], property[1].trim());
  const uid = /\buid=(\d+)/.exec(text);
  if (uid) return [{ kind: 'uid', uid: Number(uid[1]) }];
  const hash = hashSights(text);
  if (hash) return hash;
  if (typed) return [UNDERSTOOD, ...paths];
  const simple = SIMPLE.find(([when]) => when.test(text));
  if (simple) return [simple[1]];
  const known = transferSights(text) ?? deedSights(text) ?? listedSights(text) ?? variableSights(text);
  if (known) return [...known, ...paths];
  return NOISE.test(text) ? [UNDERSTOOD] : paths.length > 0 ? paths : null;
}

function listedSights(text: string): Sight[] | null {
  const [, serial, word, more] = LISTED.exec(text) ?? [];
  const mode = word === undefined ? null : listedAs(word);
  if (serial === undefined || mode === null || !LIKE_A_SERIAL.test(serial)) return null;
  const product = /\bdevice:(\S+)/.exec(more ?? '')?.[1] ?? null;
  return [{ kind: 'listed', serial, mode, product }];
}

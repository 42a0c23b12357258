import { EternoError } from '../errors';

/*
 * Commands in the person's own vocabulary: a template a verb, filled in for a shell (docs/method.md,
 * "Commands in your own words").
 */

export const COMMAND_VERBS = [
  'list',
  'read variables',
  'enter bootloader',
  'enter recovery',
  'write',
  'start once',
  'select slot',
  'unlock',
  'lock',
  'push',
  'sideload',
  'restart',
] as const;
export type CommandVerb = (typeof COMMAND_VERBS)[number];

export type Shell = 'posix' | 'powershell' | 'cmd';
export const SHELLS: readonly Shell[] = ['posix', 'powershell', 'cmd'];

/**
 * What a template may hold in braces. `target` is the partition with its slot, as some tools want it; `stock`
 * the stock image that proves what is written, `facts` what `eterno facts` made of the handset's dump.
 */
export const PLACEHOLDERS = [
  'file',
  'partition',
  'slot',
  'target',
  'serial',
  'path',
  'code',
  'address',
  'stock',
  'facts',
] as const;
type Placeholder = (typeof PLACEHOLDERS)[number];
export type CommandValues = Readonly<Partial<Record<Placeholder, string>>>;

export type Vocabulary = Readonly<Partial<Record<CommandVerb, string>>>;

/** Eterno's own command; what it has no verb for is done over the link or by keys. */
export const OWN_VOCABULARY: Vocabulary = {
  'read variables': 'eterno variables --to {address}',
  write:
    'eterno write --to {address} --partition {partition} --slot {slot} --facts {facts} --stock {stock} {file}',
  'start once': 'eterno start-once --to {address} --facts {facts} --stock {stock} {file}',
};

/**
 * What Eterno's own command was before it wanted proof: kept in stores of then, and never the person's own
 * words.
 */
export const FORMER_OWN: readonly string[] = [
  'eterno write --to {address} --partition {partition} --slot {slot} {file}',
  'eterno start-once --to {address} {file}',
];

export const TEMPLATE_CHARACTERS = 300;
const HOLE = /\{([^{}]*)\}/g;

/**
 * @throws {EternoError} `bad-field` for more than one line, an unknown placeholder, or one that is not closed
 */
export function checkTemplate(template: string): void {
  if (template.length > TEMPLATE_CHARACTERS)
    throw new EternoError('bad-field', `a command has at most ${TEMPLATE_CHARACTERS} characters`);
  if (/[\u0000-\u001f\u007f]/.test(template)) throw new EternoError('bad-field', 'a command is one line');
  for (const [, name] of template.matchAll(HOLE))
    if (!(PLACEHOLDERS as readonly string[]).includes(name!))
      throw new EternoError(
        'bad-field',
        `{${name}} is nothing that can be filled in; there are ${PLACEHOLDERS.map((one) => `{${one}}`).join(' ')}`,
      );
  if (/[{}]/.test(template.replace(HOLE, ''))) throw new EternoError('bad-field', 'a brace is not closed');
}

/** One value as one word of a shell; plain words stay as they are. */
export function quoteFor(shell: Shell, value: string): string {
  if (/^[A-Za-z0-9_./:=@+-]+$/.test(value)) return value;
  if (shell === 'posix') return `'${value.replaceAll("'", "'\\''")}'`;
  if (shell === 'powershell') return `'${value.replaceAll("'", "''")}'`;
  return `"${value.replaceAll('%', '%%').replaceAll('"', '""')}"`;
}

/**
 * A template filled in. An option whose value is not known here (`--slot {slot}` on a handset with one slot)
 * goes with its word before it.
 * @returns null where something else that it needs is not known
 */
export function fillCommand(template: string, values: CommandValues, shell: Shell): string | null {
  const words: string[] = [];
  for (const word of template.trim().split(/\s+/)) {
    const holes = [...word.matchAll(HOLE)].map(([, name]) => name as Placeholder);
    const empty = holes.filter((name) => (values[name] ?? '') === '');
    if (empty.length === 0) {
      words.push(word.replace(HOLE, (_all, name: Placeholder) => quoteFor(shell, values[name]!)));
      continue;
    }
    if (empty.some((name) => name !== 'slot')) return null;
    if (words.at(-1)?.startsWith('-') && word === '{slot}') words.pop();
  }
  return words.join(' ');
}

/** Shows the SHA-256 of a file on the person's own computer, with what its shell brings along. */
export function hashCommand(shell: Shell, file: string): string {
  const name = quoteFor(shell, file);
  return {
    posix: `sha256sum ${name}`,
    powershell: `Get-FileHash -Algorithm SHA256 ${name}`,
    cmd: `certutil -hashfile ${name} SHA256`,
  }[shell];
}

const BY_NAME = '/dev/block/by-name/';

/** On the handset: the hash of the first `bytes` of a partition, the part that an image fills. */
export const readOutCommand = (partition: string, bytes: number) =>
  `head -c ${bytes} ${BY_NAME}${partition} | sha256sum`;

/** On the handset, by root: a file of it onto a partition, and no command after it before that is on disk. */
export const writeInsideCommand = (path: string, partition: string) =>
  `dd if=${quoteFor('posix', path)} of=${BY_NAME}${partition} bs=4096 && sync`;

/* How long a handset may say nothing before the link counts as lost; milliseconds. */

export interface Silence {
  /** To a question that it answers out of its head. */
  readonly answer: number;
  /** While it writes, reads or judges many bytes. */
  readonly work: number;
  /** While a person has to answer on its screen. */
  readonly person: number;
}

export const SILENCE: Silence = { answer: 8_000, work: 180_000, person: 600_000 };

const WORKS = /^(flash|erase|boot|download|set_active|snapshot-update)(:|$)/;
/** Of a command of the bootloader. */
export function silenceOf(command: string, silence: Silence): number {
  if (/^flashing (un)?lock$/.test(command)) return silence.person;
  return WORKS.test(command) ? silence.work : silence.answer;
}

const BY_PERSON: readonly string[] = ['root'];
const LONG: readonly string[] = [
  'set-end',
  'set-part',
  'install-package',
  'image-data',
  'sideload',
  'write',
  'force',
  'push',
  'read',
  'pull',
  'restart',
  'modules',
];
/** Of a request to a running system or recovery. */
export function silenceOfRequest(request: string, silence: Silence): number {
  if (BY_PERSON.includes(request)) return silence.person;
  return LONG.includes(request) ? silence.work : silence.answer;
}

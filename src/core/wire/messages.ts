import { ByteWriter } from '../bytes/byte-writer';
import { fromLatin1, latin1 } from '../bytes/bytes';
import { EternoError } from '../errors';
import type { ByteQueue } from './byte-queue';

/*
 * Bootloader wire protocol (docs/formats.md, "Bootloader wire protocol"). ASCII commands, answers of four
 * letters and a text.
 */

export const HANDSHAKE = latin1('FB01');
export const COMMAND_BYTES = 4096;
/** Longest data portion sent or accepted as one message. */
export const DATA_MESSAGE_BYTES = 1 << 20;

export type AnswerKind = 'OKAY' | 'FAIL' | 'INFO' | 'TEXT' | 'DATA';
export interface WireAnswer {
  readonly kind: AnswerKind;
  readonly text: string;
}

/** A message with its u64 BE length before it, as it goes over TCP. */
export function frame(message: Uint8Array): Uint8Array<ArrayBuffer> {
  return new ByteWriter(8 + message.length).u64be(message.length).bytes(message).finish();
}

/** The next framed message. @throws {EternoError} `too-large`, and what ends the queue */
export async function readFrame(queue: ByteQueue, limitBytes: number): Promise<Uint8Array<ArrayBuffer>> {
  const head = await queue.take(8);
  const length = new DataView(head.buffer).getBigUint64(0);
  if (length > BigInt(limitBytes))
    throw new EternoError(
      'too-large',
      `a message of ${length} bytes arrived where ${limitBytes} are the most`,
    );
  return queue.take(Number(length));
}

const KINDS: readonly string[] = ['OKAY', 'FAIL', 'INFO', 'TEXT', 'DATA'] satisfies AnswerKind[];
const isKind = (text: string): text is AnswerKind => KINDS.includes(text);

/** Whether bytes begin with the four letters of an answer. */
export const beginsAnswer = (bytes: Uint8Array): boolean => isKind(fromLatin1(bytes.subarray(0, 4)));

/** @throws {EternoError} `bad-field` for an answer that is none */
export function parseAnswer(message: Uint8Array): WireAnswer {
  const text = fromLatin1(message);
  const kind = text.slice(0, 4);
  if (!isKind(kind)) {
    throw new EternoError(
      'bad-field',
      `the handset answered "${text.slice(0, 40)}", which is no answer of this protocol`,
    );
  }
  return { kind, text: text.slice(4) };
}

export function answerBytes(kind: AnswerKind, text = ''): Uint8Array<ArrayBuffer> {
  return latin1(kind + text);
}

/** @throws {EternoError} `bad-field` for a command that is too long or not ASCII */
export function commandBytes(command: string): Uint8Array<ArrayBuffer> {
  if (command.length > COMMAND_BYTES || !/^[\x20-\x7e]+$/.test(command))
    throw new EternoError('bad-field', 'a command is 1 to 4,096 ASCII characters');
  return latin1(command);
}

/** The length in a `DATA` answer or a `download:` command: 8 hex digits. */
export function parseHexLength(text: string): number {
  if (!/^[0-9a-fA-F]{8}$/.test(text))
    throw new EternoError('bad-field', `"${text.slice(0, 16)}" is no length of 8 hex digits`);
  return Number.parseInt(text, 16);
}
export const hexLength = (bytes: number) => bytes.toString(16).padStart(8, '0');

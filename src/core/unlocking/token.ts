import { EternoError } from '../errors';

/*
 * The token that a maker wants for its unlock code, as a bootloader prints it: in several lines, each behind a
 * prefix (docs/method.md, "Unlocking").
 */

export interface UnlockToken {
  /** In one piece. */
  readonly token: string;
  /** How many lines it was joined from. */
  readonly lines: number;
}

export const TOKEN_LIMITS = { least: 8, most: 1024 } as const;

/** What a tool writes before a bootloader's own words, and the words that end an answer. */
const PREFIX = /^\s*(?:\(?bootloader\)?|INFO)[:\s]\s*/i;
const ENDING = /^(?:OKAY\b|FAIL(?:ED)?\b|finished\b|all: |< ?waiting|\.\.\.)|:\s*$/i;
/** A line that is named: `unlock-token:2: …`, or another variable. */
const NAMED = /^([A-Za-z][\w.-]*?)(?::(\d+))?\s*:\s*(\S.*)?$/;
const IS_TOKEN = /token|unlock[-_ ]?(?:data|key|request)|identifier/i;
const PIECE = /^[A-Za-z0-9+/=_-]+$/;

interface Piece {
  readonly at: number | null;
  readonly text: string;
}

function pieceOf(line: string): Piece | null {
  const own = line.replace(PREFIX, '').trim();
  if (own === '' || ENDING.test(own)) return null;
  const named = NAMED.exec(own);
  if (named) {
    const [, name, index, value = ''] = named;
    if (!IS_TOKEN.test(name!)) return null;
    return { at: index === undefined ? null : Number(index), text: value.trim() };
  }
  return { at: null, text: own };
}

/** Numbered lines stand in a row from 0 or 1 on, each once. */
function inOrder(pieces: readonly Piece[]): readonly Piece[] {
  const numbered = pieces.filter(({ at }) => at !== null);
  if (numbered.length === 0) return pieces;
  const sorted = [...numbered].sort((a, b) => a.at! - b.at!);
  const first = sorted[0]!.at!;
  if (first > 1)
    throw new EternoError('truncated', 'The first line of the token is missing: copy all of them.');
  for (const [i, { at }] of sorted.entries()) {
    if (at === first + i) continue;
    throw at === first + i - 1
      ? new EternoError('duplicate', `Line ${at} of the token stands there twice: copy them once.`)
      : new EternoError('truncated', `Line ${first + i} of the token is missing: copy all of them.`);
  }
  return sorted;
}

/**
 * Reads a token out of what a bootloader printed: prefixes go, lines are joined without spaces.
 * @throws {EternoError} `not-found` where none stands there, `truncated` where a line is missing, `duplicate`
 *   where one is there twice, `bad-field` where its characters are of no token, `too-large`
 */
export function readToken(text: string): UnlockToken {
  const pieces = inOrder(text.split(/\r\n|\r|\n/).flatMap((line) => pieceOf(line) ?? []));
  const parts = pieces.map((piece) => piece.text).filter((part) => part !== '');
  if (parts.length === 0)
    throw new EternoError('not-found', 'No token stands in this text: read it in the mode that prints it.');
  const strange = parts.find((part) => !PIECE.test(part));
  if (strange !== undefined)
    throw new EternoError(
      'bad-field',
      'A line of it holds characters that no token has: copy the token’s lines only.',
    );
  const token = parts.join('');
  if (token.length > TOKEN_LIMITS.most)
    throw new EternoError('too-large', `A token has at most ${TOKEN_LIMITS.most} characters.`);
  if (token.length < TOKEN_LIMITS.least)
    throw new EternoError(
      'truncated',
      `A token has at least ${TOKEN_LIMITS.least} characters: copy all its lines.`,
    );
  return { token, lines: parts.length };
}

export const CODE_LIMITS = { least: 4, most: 256 } as const;

/** What is known that a code can be held against; null where it is not. */
export interface AgainstCode {
  readonly token: string | null;
  readonly serial: string | null;
  /** How the maker's codes look: `A` a letter, `0` a digit, `?` either, all else as it stands. */
  readonly form: string | null;
}

function fits(code: string, form: string): boolean {
  const classes: Readonly<Record<string, RegExp>> = { A: /[A-Za-z]/, '0': /\d/, '?': /[A-Za-z0-9]/ };
  return (
    code.length === form.length &&
    [...form].every((sign, i) => classes[sign]?.test(code[i]!) ?? sign === code[i])
  );
}

/**
 * A code as it came: the spaces that a mail puts round it go.
 * @throws {EternoError} `bad-field` for what can be no code; the code itself is in no message
 */
export function readCode(text: string, { token, serial, form }: AgainstCode): string {
  const bad = (why: string) => new EternoError('bad-field', why);
  const code = text.trim();
  if (/\s/.test(code)) throw bad('A code has no spaces or line breaks in it: paste the code alone.');
  if (code.length < CODE_LIMITS.least || code.length > CODE_LIMITS.most)
    throw bad(`A code has ${CODE_LIMITS.least} to ${CODE_LIMITS.most} characters; this has ${code.length}.`);
  if (!/^[\x21-\x7e]+$/.test(code))
    throw bad('A code is letters, digits and dashes; this holds other characters.');
  if (token !== null && code === token)
    throw bad('This is the token that you sent, not the code that came back.');
  if (serial !== null && code.toUpperCase() === serial.toUpperCase())
    throw bad('This is the serial of the handset, not the code.');
  if (form !== null && !fits(code, form))
    throw bad(`The codes of this maker look like ${form}; this one does not.`);
  return code;
}

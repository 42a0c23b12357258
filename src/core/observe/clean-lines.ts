import { EternoError } from '../errors';
import { LIMITS } from '../limits';

/* A text that was printed or copied, as lines without what a terminal adds. */

export interface PrintedLine {
  /** From 1. */
  readonly n: number;
  readonly text: string;
  /** What was typed behind a prompt, where the line is one; then `text` is that too. */
  readonly typed: boolean;
}

const ESCAPES = /\u001b\[[0-9;?]*[ -/]*[@-~]|\u001b\][^\u0007\u001b]*(?:\u0007|\u001b\\)|\u001b[@-_]/g;
/** `name:/path $ `, `name@host:~# `, `C:\folder> `, `$ `. */
const PROMPT = /^(?:[\w.@-]*:[^$#>\s]*\s?|[A-Z]:\\[^>]*)?[$#>](?:\s+|$)/;

/** What a terminal puts before a line: the time of day. */
const CLOCK = /^\[?\d{1,2}:\d{2}:\d{2}(?:[.,]\d+)?\]?\s+/;
/** A property whose value goes on in the next line, and the most lines that it may take. */
const OPEN_PROPERTY = /^\[[^\]]+\]: \[[^\]]*$/;
const MOST_WRAPPED = 4;

/**
 * A carriage return alone starts no line: what a progress line wrote over itself stands in one, each writing
 * by itself. A value that was wrapped belongs to the line it began in.
 * @throws {EternoError} `too-large`
 */
export function cleanLines(text: string): PrintedLine[] {
  if (text.length > LIMITS.factsTextBytes)
    throw new EternoError('too-large', 'the text is longer than anything that a handset or a tool prints');
  const lines = text
    .replace(/^\ufeff/, '')
    .split('\n')
    .flatMap((raw, i) => partsOf(raw).map((part) => lineOf(part, i + 1)));
  return unwrapped(lines);
}

function partsOf(raw: string): string[] {
  const parts = raw
    .replace(ESCAPES, '')
    .split('\r')
    .map((part) => part.trim())
    .filter((part) => part !== '');
  return parts.length === 0 ? [''] : parts;
}

function lineOf(part: string, n: number): PrintedLine {
  const timed = part.replace(CLOCK, '');
  const prompt = PROMPT.exec(timed);
  return {
    n,
    text: prompt ? timed.slice(prompt[0].length).trim() : timed,
    typed: prompt !== null,
  };
}

function unwrapped(lines: readonly PrintedLine[]): PrintedLine[] {
  const out: PrintedLine[] = [];
  let wrapped = 0;
  for (const line of lines) {
    const open = out.at(-1);
    if (open && wrapped < MOST_WRAPPED && OPEN_PROPERTY.test(open.text) && !line.text.startsWith('[')) {
      out[out.length - 1] = { ...open, text: open.text + line.text };
      wrapped += 1;
    } else {
      out.push(line);
      wrapped = 0;
    }
  }
  return out;
}

import { EternoError } from './errors';

/* JSON from elsewhere, looked over before it is built: a few bytes a structure become hundreds in memory. */

export interface JsonBounds {
  /** Lists and objects inside each other, the outermost counted. */
  readonly depth: number;
  /** Lists and objects, all together. */
  readonly structures: number;
}

const [QUOTE, ESCAPE] = [0x22, 0x5c];
const OPENS = [0x5b, 0x7b];
const CLOSES = [0x5d, 0x7d];

/**
 * @throws {EternoError} `too-large` for more or deeper structures than the bounds allow; what is no JSON the
 * parser says
 */
function lookOver(bytes: Uint8Array, { depth, structures }: JsonBounds): void {
  let [open, count] = [0, 0];
  for (let at = 0; at < bytes.length; at += 1) {
    const byte = bytes[at]!;
    if (byte === QUOTE) {
      for (at += 1; at < bytes.length && bytes[at] !== QUOTE; at += 1) if (bytes[at] === ESCAPE) at += 1;
      continue;
    }
    if (CLOSES.includes(byte)) open -= 1;
    if (!OPENS.includes(byte)) continue;
    open += 1;
    count += 1;
    if (open > depth || count > structures)
      throw new EternoError('too-large', 'this JSON holds more lists and objects than belong there', {
        offset: at,
      });
  }
}

/** @throws {EternoError} `too-large`, `corrupt` for what is no JSON in UTF-8 */
export function boundedJson(bytes: Uint8Array, bounds: JsonBounds): unknown {
  lookOver(bytes, bounds);
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (thrown) {
    throw new EternoError('corrupt', 'this is no JSON', { cause: thrown });
  }
}

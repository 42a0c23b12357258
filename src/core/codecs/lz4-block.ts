import { EternoError } from '../errors';

/*
 * One raw lz4 block, both ways. Written here because no kept library checks the bounds of a raw block on
 * reading or offers more than a single match try on writing (docs/formats.md, "Compressed streams").
 */

const NO_HISTORY = new Uint8Array(0);
const corrupt = (at: number, what: string) =>
  new EternoError('corrupt', `lz4 block: ${what}`, { offset: at });

/**
 * Unpacks one block.
 * @param history what stands before it in a stream of linked blocks; matches may point into it
 * @throws {EternoError} `corrupt`, or `too-large` past `limitBytes` of its own output
 */
export function decodeLz4Block(
  input: Uint8Array,
  limitBytes: number,
  history: Uint8Array = NO_HISTORY,
): Uint8Array<ArrayBuffer> {
  const before = history.length;
  const limit = limitBytes + before;
  let out = new Uint8Array(Math.min(limit, before + Math.max(4096, input.length * 4)));
  out.set(history);
  let o = before;
  let i = 0;
  const room = (count: number) => {
    if (o + count > limit)
      throw new EternoError('too-large', `lz4 block unpacks to more than ${limitBytes} bytes`, { offset: i });
    if (o + count > out.length) {
      const grown = new Uint8Array(Math.min(limit, Math.max(out.length * 2, o + count)));
      grown.set(out.subarray(0, o));
      out = grown;
    }
  };
  const more = (): number => {
    let sum = 0;
    for (;;) {
      if (i >= input.length) throw corrupt(i, 'a length runs past the end');
      const byte = input[i++]!;
      sum += byte;
      if (byte !== 255) return sum;
    }
  };
  while (i < input.length) {
    const token = input[i++]!;
    let literals = token >> 4;
    if (literals === 15) literals += more();
    if (literals > input.length - i) throw corrupt(i, 'literals run past the end');
    room(literals);
    for (let k = 0; k < literals; k += 1) out[o + k] = input[i + k]!;
    o += literals;
    i += literals;
    if (i === input.length) break;
    if (i + 2 > input.length) throw corrupt(i, 'a match offset is cut off');
    const offset = input[i]! | (input[i + 1]! << 8);
    i += 2;
    if (offset === 0 || offset > o)
      throw corrupt(i - 2, `a match points ${offset} bytes back, but only ${o} are there`);
    let length = (token & 15) + 4;
    if ((token & 15) === 15) length += more();
    room(length);
    if (offset >= length) out.copyWithin(o, o - offset, o - offset + length);
    else for (let k = 0; k < length; k += 1) out[o + k] = out[o + k - offset]!;
    o += length;
  }
  return out.slice(before, o);
}

const HASH_BITS = 16;
const MIN_MATCH = 4;
/** The format wants the last five bytes as literals and no match to begin in the last twelve. */
const LAST_LITERALS = 5;
const MATCH_MARGIN = 12;
const WINDOW_BYTES = 65535;
/** From this many tries on every position is remembered and a longer match one byte later is looked for. */
const THOROUGH_TRIES = 16;
/** Literals up to this many are copied one by one: a view for each would cost more. */
const FEW_LITERALS = 48;

/**
 * Packs one block with hash chains; `tries` match candidates are looked at for each position. Same input,
 * same output.
 */
export function encodeLz4Block(input: Uint8Array, tries: number): Uint8Array<ArrayBuffer> {
  const n = input.length;
  const out = new Uint8Array(n + Math.ceil(n / 255) + 16);
  const words = new DataView(input.buffer, input.byteOffset, n);
  const thorough = tries >= THOROUGH_TRIES;
  const head = new Int32Array(1 << HASH_BITS).fill(-1);
  const chain = new Int32Array(65536).fill(-1);
  const matchLimit = n - MATCH_MARGIN;
  const endLimit = n - LAST_LITERALS;
  let o = 0;
  let anchor = 0;
  let remembered = 0;
  const hashAt = (p: number) => Math.imul(words.getInt32(p, true), -1640531535) >>> (32 - HASH_BITS);
  const remember = (p: number) => {
    const h = hashAt(p);
    chain[p & 0xffff] = head[h]!;
    head[h] = p;
  };
  const rememberUpTo = (p: number) => {
    for (; remembered < p; remembered += 1) remember(remembered);
  };
  const lengthOut = (value: number) => {
    let rest = value;
    for (; rest >= 255; rest -= 255) out[o++] = 255;
    out[o++] = rest;
  };
  const literalsOut = (until: number, matchCode: number) => {
    const literals = until - anchor;
    out[o++] = (Math.min(literals, 15) << 4) | matchCode;
    if (literals >= 15) lengthOut(literals - 15);
    if (literals <= FEW_LITERALS) for (let k = anchor; k < until; k += 1) out[o + k - anchor] = input[k]!;
    else out.set(input.subarray(anchor, until), o);
    o += literals;
  };
  const matchLength = (a: number, b: number) => {
    let length = MIN_MATCH;
    while (
      b + length + 4 <= endLimit &&
      words.getInt32(a + length, true) === words.getInt32(b + length, true)
    )
      length += 4;
    while (b + length < endLimit && input[a + length] === input[b + length]) length += 1;
    return length;
  };
  let foundLength = 0;
  let foundAt = 0;
  /** Looks for a match at `p` longer than `better`; the position is remembered after. */
  const search = (p: number, better: number) => {
    const first = words.getInt32(p, true);
    foundLength = better;
    let candidate = head[hashAt(p)]!;
    for (
      let left = tries;
      left > 0 && candidate >= 0 && candidate < p && p - candidate <= WINDOW_BYTES;
      left -= 1
    ) {
      if (
        words.getInt32(candidate, true) === first &&
        input[candidate + foundLength] === input[p + foundLength]
      ) {
        const length = matchLength(candidate, p);
        if (length > foundLength) {
          foundLength = length;
          foundAt = candidate;
        }
      }
      const older = chain[candidate & 0xffff]!;
      if (older >= candidate) break;
      candidate = older;
    }
    return foundLength > better;
  };
  let p = 0;
  let misses = 0;
  while (p < matchLimit) {
    if (thorough) rememberUpTo(p);
    const hit = search(p, MIN_MATCH - 1);
    if (!thorough) remember(p);
    if (!hit) {
      // without a thorough search, step faster through what does not compress
      p += thorough ? 1 : 1 + (misses++ >> 6);
      continue;
    }
    misses = 0;
    let [length, at] = [foundLength, foundAt];
    // one lazy step: a longer match one byte later is worth a literal
    while (thorough && p + 1 < matchLimit) {
      rememberUpTo(p + 1);
      if (!search(p + 1, length)) break;
      p += 1;
      [length, at] = [foundLength, foundAt];
    }
    const code = length - MIN_MATCH;
    literalsOut(p, Math.min(code, 15));
    const offset = p - at;
    out[o++] = offset & 0xff;
    out[o++] = offset >> 8;
    if (code >= 15) lengthOut(code - 15);
    p += length;
    anchor = p;
    if (!thorough && p - 2 < matchLimit) remember(p - 2);
  }
  literalsOut(n, 0);
  return out.slice(0, o);
}

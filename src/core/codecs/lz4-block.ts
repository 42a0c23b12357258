import { EternoError } from '../errors';

/*
 * One raw lz4 block, both ways. Written here because no kept library checks the bounds of a raw block on reading
 * or offers more than a single match try on writing (docs/formats.md, "Compressed streams").
 */

const NO_HISTORY = new Uint8Array(0);
const corrupt = (at: number, what: string) => new EternoError('corrupt', `lz4 block: ${what}`, { offset: at });

/**
 * Unpacks one block. @param history what stands before it in a stream of linked blocks; matches may point into it
 * @throws {EternoError} `corrupt`, or `too-large` past `limitBytes` of its own output
 */
export function decodeLz4Block(input: Uint8Array, limitBytes: number, history: Uint8Array = NO_HISTORY): Uint8Array<ArrayBuffer> {
  const before = history.length;
  const limit = limitBytes + before;
  let out = new Uint8Array(Math.min(limit, before + Math.max(4096, input.length * 4)));
  out.set(history);
  let o = before;
  let i = 0;
  const room = (count: number) => {
    if (o + count > limit) throw new EternoError('too-large', `lz4 block unpacks to more than ${limitBytes} bytes`, { offset: i });
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
    if (offset === 0 || offset > o) throw corrupt(i - 2, `a match points ${offset} bytes back, but only ${o} are there`);
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

/** Packs one block with hash chains; `tries` match candidates are looked at for each position. Same input, same output. */
export function encodeLz4Block(input: Uint8Array, tries: number): Uint8Array<ArrayBuffer> {
  const n = input.length;
  const out = new Uint8Array(n + Math.ceil(n / 255) + 16);
  const head = new Int32Array(1 << HASH_BITS).fill(-1);
  const chain = new Int32Array(65536).fill(-1);
  const matchLimit = n - MATCH_MARGIN;
  const endLimit = n - LAST_LITERALS;
  let o = 0;
  let anchor = 0;
  let next = 0;
  const hashAt = (p: number) =>
    Math.imul(input[p]! | (input[p + 1]! << 8) | (input[p + 2]! << 16) | (input[p + 3]! << 24), 2654435761) >>> (32 - HASH_BITS);
  const insertUpTo = (p: number) => {
    for (; next < p; next += 1) {
      const h = hashAt(next);
      chain[next & 0xffff] = head[h]!;
      head[h] = next;
    }
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
    out.set(input.subarray(anchor, until), o);
    o += literals;
  };
  const found = { length: 0, at: 0 };
  const search = (p: number, better: number) => {
    insertUpTo(p);
    found.length = better;
    let candidate = head[hashAt(p)]!;
    for (let left = tries; left > 0 && candidate >= 0 && p - candidate <= 65535; left -= 1) {
      if (input[candidate + found.length] === input[p + found.length] && input[candidate] === input[p]) {
        let length = 0;
        while (p + length < endLimit && input[candidate + length] === input[p + length]) length += 1;
        if (length > found.length) {
          found.length = length;
          found.at = candidate;
        }
      }
      const older = chain[candidate & 0xffff]!;
      if (older >= candidate) break;
      candidate = older;
    }
    return found.length > better;
  };
  let p = 0;
  let misses = 0;
  while (p < matchLimit) {
    if (!search(p, MIN_MATCH - 1)) {
      // without a strong search, step faster through what does not compress
      p += tries > 1 ? 1 : 1 + (misses++ >> 6);
      continue;
    }
    misses = 0;
    let { length, at } = found;
    // one lazy step: a longer match one byte later is worth a literal
    while (tries > 1 && p + 1 < matchLimit && search(p + 1, length)) {
      p += 1;
      ({ length, at } = found);
    }
    const code = length - MIN_MATCH;
    literalsOut(p, Math.min(code, 15));
    const offset = p - at;
    out[o++] = offset & 0xff;
    out[o++] = offset >> 8;
    if (code >= 15) lengthOut(code - 15);
    p += length;
    anchor = p;
    if (p < matchLimit) insertUpTo(p);
  }
  literalsOut(n, 0);
  return out.slice(0, o);
}

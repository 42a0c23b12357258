const HEX = Array.from({ length: 256 }, (_, i) => i.toString(16).padStart(2, '0'));

export function toHex(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += HEX[byte];
  return text;
}

export function fromHex(text: string): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(text.length >> 1);
  for (let i = 0; i < bytes.length; i += 1) bytes[i] = Number.parseInt(text.slice(2 * i, 2 * i + 2), 16);
  return bytes;
}

export function equalBytes(a: Uint8Array, b: Uint8Array): boolean {
  if (a.length !== b.length) return false;
  const [left, right] = [
    new DataView(a.buffer, a.byteOffset, a.length),
    new DataView(b.buffer, b.byteOffset, b.length),
  ];
  const whole = a.length & ~7;
  for (let i = 0; i < whole; i += 8) {
    if (
      left.getInt32(i, true) !== right.getInt32(i, true) ||
      left.getInt32(i + 4, true) !== right.getInt32(i + 4, true)
    )
      return false;
  }
  for (let i = whole; i < a.length; i += 1) if (a[i] !== b[i]) return false;
  return true;
}

export function concatBytes(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** `value` rounded up to a multiple of `multiple`. */
export function alignUp(value: number, multiple: number): number {
  return Math.ceil(value / multiple) * multiple;
}

/** Length without the zeros at the end. */
export function lengthWithoutZeros(bytes: Uint8Array): number {
  let end = bytes.length;
  const words = new DataView(bytes.buffer, bytes.byteOffset, end);
  while (end >= 8 && words.getInt32(end - 4, true) === 0 && words.getInt32(end - 8, true) === 0) end -= 8;
  while (end > 0 && bytes[end - 1] === 0) end -= 1;
  return end;
}

export function isZero(bytes: Uint8Array): boolean {
  return lengthWithoutZeros(bytes) === 0;
}

export function startsWith(bytes: Uint8Array, head: Uint8Array, at = 0): boolean {
  if (bytes.length < at + head.length) return false;
  for (let i = 0; i < head.length; i += 1) if (bytes[at + i] !== head[i]) return false;
  return true;
}

/** One byte a character, for magics and fixed ASCII fields. */
/** The first place of some bytes at or after `from`; -1 where there is none. */
export function indexOfBytes(bytes: Uint8Array, find: Uint8Array, from = 0): number {
  const last = bytes.length - find.length;
  for (let at = bytes.indexOf(find[0]!, from); at >= 0 && at <= last; at = bytes.indexOf(find[0]!, at + 1))
    if (startsWith(bytes, find, at)) return at;
  return -1;
}

/** Every occurrence from left to right without overlap; null where there is none. @param find not empty */
export function replaceAllBytes(
  bytes: Uint8Array,
  find: Uint8Array,
  replacement: Uint8Array,
): Uint8Array<ArrayBuffer> | null {
  const parts: Uint8Array[] = [];
  let from = 0;
  for (let at = indexOfBytes(bytes, find); at >= 0; at = indexOfBytes(bytes, find, from)) {
    parts.push(bytes.subarray(from, at), replacement);
    from = at + find.length;
  }
  return parts.length === 0 ? null : concatBytes([...parts, bytes.subarray(from)]);
}

export function latin1(text: string): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(text, (c) => c.charCodeAt(0) & 0xff);
}

export function fromLatin1(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return text;
}

/** The text before the first NUL of a fixed field. */
export function cString(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  return fromLatin1(end < 0 ? bytes : bytes.subarray(0, end));
}

/** UTF-8 where it is UTF-8; every other byte, and the backslash's own escape, as `\xNN`. */
export function displayName(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  } catch {
    let text = '';
    for (let i = 0; i < bytes.length;) {
      const width = utf8Width(bytes, i);
      if (width === 0) {
        text += `\\x${HEX[bytes[i]!]}`;
        i += 1;
      } else {
        text += new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes.subarray(i, i + width));
        i += width;
      }
    }
    return text;
  }
}

function utf8Width(bytes: Uint8Array, at: number): number {
  for (const width of [1, 2, 3, 4]) {
    try {
      const text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(
        bytes.subarray(at, at + width),
      );
      if (at + width <= bytes.length && text.length > 0) return width;
    } catch {
      // not a whole character of this width
    }
  }
  return 0;
}

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k += 1) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

/** CRC-32 as ZIP and gzip use it; `seed` is the value so far. */
export function crc32(bytes: Uint8Array, seed = 0): number {
  let c = ~seed >>> 0;
  for (let i = 0; i < bytes.length; i += 1) c = CRC_TABLE[(c ^ bytes[i]!) & 0xff]! ^ (c >>> 8);
  return ~c >>> 0;
}

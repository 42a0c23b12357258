/** Seeded bytes: the same seed gives the same bytes on every machine. */
export function noise(seed: number, byteCount: number): Uint8Array<ArrayBuffer> {
  const words = new Uint32Array(Math.ceil(byteCount / 4));
  let x = (seed * 2654435761 + 1) >>> 0 || 1;
  for (let i = 0; i < words.length; i += 1) {
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    words[i] = x;
  }
  return new Uint8Array(words.buffer, 0, byteCount);
}

/** Bytes that pack to about a third: runs of a small vocabulary between noise, as program code is. */
export function programLike(seed: number, byteCount: number): Uint8Array<ArrayBuffer> {
  const out = noise(seed, byteCount);
  const vocabulary = noise(seed ^ 0x5bd1e995, 4096);
  for (let at = 0; at + 64 <= byteCount; at += 64) {
    const from = (out[at]! * 13 + out[at + 1]!) % (4096 - 48);
    out.set(vocabulary.subarray(from, from + 46), at + 18);
  }
  return out;
}

export function seedOf(text: string): number {
  let h = 2166136261;
  for (let i = 0; i < text.length; i += 1) h = Math.imul(h ^ text.charCodeAt(i), 16777619) >>> 0;
  return h;
}

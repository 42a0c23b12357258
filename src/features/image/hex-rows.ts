const ROW_BYTES = 16;

/** Whether bytes read as text: valid UTF-8 without control characters but the usual ones. */
export function asText(bytes: Uint8Array): string | null {
  try {
    const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return /[\x00-\x08\x0e-\x1f]/.test(text) ? null : text;
  } catch {
    return null;
  }
}

export const hexRowCount = (bytes: Uint8Array) => Math.ceil(bytes.length / ROW_BYTES);

/** One line of a hex view: offset, bytes, and what of them can be printed. */
export function hexRow(
  bytes: Uint8Array,
  row: number,
): { readonly offset: string; readonly hex: string; readonly text: string } {
  const part = bytes.subarray(row * ROW_BYTES, (row + 1) * ROW_BYTES);
  const hex = Array.from(part, (byte) => byte.toString(16).padStart(2, '0'));
  const text = Array.from(part, (byte) => (byte >= 32 && byte < 127 ? String.fromCharCode(byte) : '·')).join(
    '',
  );
  return {
    offset: (row * ROW_BYTES).toString(16).padStart(8, '0'),
    hex: hex.join(' ').padEnd(ROW_BYTES * 3 - 1),
    text,
  };
}

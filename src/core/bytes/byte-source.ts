import { EternoError } from '../errors';

/** Immutable random-access bytes. Ranges are half-open, in bytes: [start, end). */
export interface ByteSource {
  /** What to call it in an error message. */
  readonly name: string;
  readonly size: number;
  /**
   * Resolves to exactly `end - start` bytes, owned by the caller.
   * @throws {EternoError} `truncated` past the end
   */
  read(start: number, end: number, signal?: AbortSignal): Promise<Uint8Array<ArrayBuffer>>;
}

/**
 * Checks a range before any read.
 * @throws {EternoError} `truncated` when it does not lie inside the source
 */
export function checkRange(source: { name: string; size: number }, start: number, end: number): void {
  if (!(
    Number.isSafeInteger(start) &&
    Number.isSafeInteger(end) &&
    start >= 0 &&
    end >= start &&
    end <= source.size
  )) {
    throw new EternoError(
      'truncated',
      `bytes ${start} to ${end} are wanted, but there are only ${source.size}`,
      {
        file: source.name,
        offset: Math.min(Math.max(0, start), source.size),
      },
    );
  }
}

/** A source over bytes in memory; reads are copies. */
export function memorySource(bytes: Uint8Array, name = 'memory'): ByteSource {
  return {
    name,
    size: bytes.length,
    async read(start, end) {
      checkRange({ name, size: bytes.length }, start, end);
      return bytes.slice(start, end);
    },
  };
}

/** The range [start, end) of another source as a source of its own. @throws {EternoError} `truncated` */
export function subSource(parent: ByteSource, start: number, end: number, name = parent.name): ByteSource {
  checkRange(parent, start, end);
  const size = end - start;
  return {
    name,
    size,
    async read(from, to, signal) {
      checkRange({ name, size }, from, to);
      return parent.read(start + from, start + to, signal);
    },
  };
}

export interface CountingSource extends ByteSource {
  /** Bytes read so far. */
  readonly bytesRead: number;
  /** The ranges read so far, in order of reading. */
  readonly ranges: readonly (readonly [number, number])[];
}

/** Passes reads on and counts them; `onRead` sees every range. */
/** How many bytes ranges cover, each byte once however often it was read. */
export function coveredBytes(ranges: readonly (readonly [start: number, end: number])[]): number {
  let [covered, reached] = [0, 0];
  for (const [start, end] of [...ranges].sort((a, b) => a[0] - b[0])) {
    covered += Math.max(0, end - Math.max(start, reached));
    reached = Math.max(reached, end);
  }
  return covered;
}

export function countingSource(
  parent: ByteSource,
  onRead?: (bytesRead: number, start: number, end: number) => void,
): CountingSource {
  let bytesRead = 0;
  const ranges: [number, number][] = [];
  return {
    name: parent.name,
    size: parent.size,
    get bytesRead() {
      return bytesRead;
    },
    get ranges() {
      return ranges;
    },
    async read(start, end, signal) {
      const bytes = await parent.read(start, end, signal);
      bytesRead += bytes.length;
      const last = ranges.at(-1);
      if (last && last[1] === start) last[1] = end;
      else ranges.push([start, end]);
      onRead?.(bytesRead, start, end);
      return bytes;
    },
  };
}

/** Reads the whole source in pieces of at most `pieceBytes`, in order. */
export async function* readPieces(
  source: ByteSource,
  pieceBytes = 1 << 20,
  signal?: AbortSignal,
): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  for (let at = 0; at < source.size; at += pieceBytes) {
    yield await source.read(at, Math.min(source.size, at + pieceBytes), signal);
  }
}

import { configure, Uint8ArrayWriter, ZipReader } from '@zip.js/zip.js';
import type { Entry, FileEntry } from '@zip.js/zip.js';
import type { ByteSource } from '@/core/bytes/byte-source';
import { memorySource, readPieces, subSource } from '@/core/bytes/byte-source';
import { crc32 } from '@/core/bytes/bytes';
import { EternoError, toEternoError } from '@/core/errors';
import { findEndRecord, withoutComment } from '@/core/formats/zip/end-record';
import { dataOffsetOf } from '@/core/formats/zip/local-header';
import type { OpenZip, ZipArchive, ZipEntry } from '@/core/formats/zip/zip-archive';
import { LIMITS } from '@/core/limits';
import { forwardSource } from './forward-source';
import { SourceReader } from './source-reader';

configure({ useWebWorkers: false });

/** The core's ZIP port over a kept library; ours is only the random access to stored entries. */
export const openZip: OpenZip = async (source, signal) => {
  if (source.size === 0)
    throw new EternoError('truncated', 'the file is empty', { file: source.name, offset: 0 });
  const end = await findEndRecord(source, signal);
  const reader = new ZipReader(new SourceReader(end === null ? source : withoutComment(source, end), signal));
  const originals = new Map<ZipEntry, Entry>();
  try {
    for await (const entry of reader.getEntriesGenerator()) {
      if (originals.size >= LIMITS.zipEntries)
        throw new EternoError('too-large', `the archive lists more than ${LIMITS.zipEntries} entries`, {
          file: source.name,
        });
      if (entry.filename.length > LIMITS.zipNameBytes)
        throw new EternoError('too-large', 'an entry name is too long', { file: source.name });
      originals.set(toEntry(entry), entry);
    }
  } catch (thrown) {
    throw asOpenError(thrown, source);
  }
  const archive: ZipArchive = {
    entries: [...originals.keys()],
    async openStored(entry) {
      if (entry.method !== 'stored' || entry.encrypted) {
        throw new EternoError(
          'unsupported',
          `${entry.name} is not stored plainly in the archive, so it can't be read in place`,
          {
            file: source.name,
            offset: entry.headerOffset,
          },
        );
      }
      const start = await dataOffsetOf(source, entry.headerOffset, signal);
      return subSource(source, start, start + entry.size, entry.name);
    },
    async openEntry(entry) {
      if (entry.method === 'stored' && !entry.encrypted) {
        const source = await archive.openStored(entry);
        return { source, check: (stop) => checkCrc(source, entry, stop) };
      }
      if (entry.size <= LIMITS.unpackedEntryBytes)
        return {
          source: memorySource(await archive.readEntry(entry, LIMITS.unpackedEntryBytes), entry.name),
          check: async () => undefined,
        };
      const original = originals.get(entry) as FileEntry;
      const source = forwardSource(entry.name, entry.size, (stop) => {
        const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>(undefined, undefined, {
          highWaterMark: 4,
        });
        original
          .getData(writable, { signal: stop })
          .catch((thrown: unknown) => writable.abort(thrown).catch(() => undefined));
        return readable;
      });
      return { source, check: (stop) => checkCrc(source, entry, stop) };
    },
    async readEntry(entry, limitBytes) {
      const original = originals.get(entry) as FileEntry | undefined;
      if (!original || entry.directory)
        throw new EternoError('not-found', `${entry.name} holds no data`, { file: source.name });
      if (entry.size > limitBytes) {
        throw new EternoError(
          'too-large',
          `${entry.name} is ${entry.size} bytes, more than the ${limitBytes} allowed for it`,
          {
            file: source.name,
            offset: entry.headerOffset,
          },
        );
      }
      let bytes: Uint8Array<ArrayBuffer>;
      try {
        bytes = new Uint8Array(await original.getData(new Uint8ArrayWriter(), { checkSignature: true }));
      } catch (thrown) {
        if (thrown instanceof EternoError) throw thrown;
        const text = thrown instanceof Error ? thrown.message : String(thrown);
        throw new EternoError(/signature/i.test(text) ? 'bad-hash' : 'corrupt', `${entry.name}: ${text}`, {
          file: source.name,
          offset: entry.headerOffset,
          cause: thrown,
        });
      }
      if (bytes.length !== entry.size || crc32(bytes) !== entry.crc32) {
        throw new EternoError(
          'bad-hash',
          `${entry.name}: size or CRC-32 differs from what the archive states`,
          {
            file: source.name,
            offset: entry.headerOffset,
          },
        );
      }
      return bytes;
    },
  };
  return archive;
};

async function checkCrc(source: ByteSource, entry: ZipEntry, signal: AbortSignal | undefined): Promise<void> {
  let sum = 0;
  for await (const piece of readPieces(source, 1 << 20, signal)) sum = crc32(piece, sum);
  if (sum !== entry.crc32)
    throw new EternoError('bad-hash', `${entry.name}: its CRC-32 differs from what the archive states`, {
      file: entry.name,
      offset: 0,
    });
}

function toEntry(entry: Entry): ZipEntry {
  const { compressionMethod } = entry;
  return {
    name: entry.filename,
    directory: entry.directory,
    method: compressionMethod === 0 ? 'stored' : compressionMethod === 8 ? 'deflated' : 'other',
    compressedSize: entry.compressedSize,
    size: entry.uncompressedSize,
    crc32: (entry.signature ?? 0) >>> 0,
    headerOffset: entry.offset,
    encrypted: entry.encrypted,
  };
}

function asOpenError(thrown: unknown, source: ByteSource): EternoError {
  if (thrown instanceof EternoError) return thrown.inFile(source.name);
  const error = toEternoError(thrown);
  const text = error.message.toLowerCase();
  const code = text.includes('end of central directory')
    ? 'bad-magic'
    : text.includes('not found') || text.includes('overflow')
      ? 'truncated'
      : 'corrupt';
  return new EternoError(code, `the archive can't be read: ${error.message}`, {
    file: source.name,
    cause: thrown,
  });
}

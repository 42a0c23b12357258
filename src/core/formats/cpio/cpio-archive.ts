import { concatBytes, displayName, latin1 } from '../../bytes/bytes';
import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/*
 * cpio "newc" (docs/formats.md, "Ramdisk"). An archive is kept as its raw pieces, so that what is not changed
 * is written back byte for byte, padding included.
 */

export const HEADER_BYTES = 110;
export const TRAILER_NAME = 'TRAILER!!!';
const FIELDS = [
  'ino',
  'mode',
  'nlink',
  'uid',
  'gid',
  'mtime',
  'filesize',
  'devmajor',
  'devminor',
  'rdevmajor',
  'rdevminor',
  'namesize',
  'check',
] as const;
export type CpioField = (typeof FIELDS)[number];

export interface CpioEntry {
  /** `070701`, or `070702` with a checksum. */
  readonly magic: string;
  readonly fields: Readonly<Record<CpioField, number>>;
  /** Name bytes without the NUL; never normalised. */
  readonly name: Uint8Array;
  readonly data: Uint8Array;
  /** The entry exactly as read; null for an entry made here. */
  readonly raw: Uint8Array | null;
  /** Whether the header's hex digits are upper case. */
  readonly upperCase: boolean;
}

export interface CpioArchive {
  readonly entries: readonly CpioEntry[];
  readonly trailer: CpioEntry;
}

export const FILE_TYPE_MASK = 0o170000;
export const TYPE = { directory: 0o040000, file: 0o100000, link: 0o120000 } as const;
export const isKind = (entry: CpioEntry, type: number) => (entry.fields.mode & FILE_TYPE_MASK) === type;
export const nameOf = (entry: CpioEntry) => displayName(entry.name);

const pad4 = (length: number) => (4 - (length % 4)) % 4;
const fail = (
  code: 'truncated' | 'bad-field' | 'bad-magic' | 'too-large' | 'bad-hash',
  message: string,
  offset: number,
) => new EternoError(code, `ramdisk archive: ${message}`, { offset });

function hexField(bytes: Uint8Array, at: number): number {
  let value = 0;
  for (let i = at; i < at + 8; i += 1) {
    const c = bytes[i]!;
    const digit =
      c >= 48 && c <= 57 ? c - 48 : c >= 97 && c <= 102 ? c - 87 : c >= 65 && c <= 70 ? c - 55 : -1;
    if (digit < 0) throw fail('bad-field', 'a header field is not a hex number', i);
    value = value * 16 + digit;
  }
  return value;
}

function readEntry(bytes: Uint8Array, at: number): { entry: CpioEntry; end: number } {
  const magic = String.fromCharCode(...bytes.subarray(at, Math.min(at + 6, bytes.length)));
  if (magic.length < 6 && '070701'.startsWith(magic))
    throw fail('truncated', 'an entry header is cut off', at);
  if (magic !== '070701' && magic !== '070702')
    throw fail('bad-field', `an entry begins with "${displayName(latin1(magic))}" instead of 070701`, at);
  if (at + HEADER_BYTES > bytes.length) throw fail('truncated', 'an entry header is cut off', at);
  const fields = {} as Record<CpioField, number>;
  FIELDS.forEach((field, i) => {
    fields[field] = hexField(bytes, at + 6 + 8 * i);
  });
  if (fields.namesize === 0) throw fail('bad-field', 'an entry has no room for a name', at);
  const nameEnd = at + HEADER_BYTES + fields.namesize;
  if (nameEnd > bytes.length) throw fail('truncated', 'an entry name runs past the end', at);
  if (fields.namesize > LIMITS.cpioNameBytes)
    throw fail('too-large', `an entry name of ${fields.namesize} bytes`, at);
  if (bytes[nameEnd - 1] !== 0) throw fail('bad-field', 'an entry name does not end with a NUL', at);
  const name = bytes.subarray(at + HEADER_BYTES, nameEnd - 1);
  const dataStart = nameEnd + pad4(HEADER_BYTES + fields.namesize);
  const dataEnd = dataStart + fields.filesize;
  if (dataEnd > bytes.length)
    throw fail('truncated', `the data of "${displayName(name)}" runs past the end`, at);
  const end = Math.min(bytes.length, dataEnd + pad4(fields.filesize));
  const data = bytes.subarray(dataStart, dataEnd);
  if (magic === '070702' && (fields.mode & FILE_TYPE_MASK) === TYPE.file) {
    let sum = 0;
    for (const byte of data) sum = (sum + byte) >>> 0;
    if (sum !== fields.check) throw fail('bad-hash', `the checksum of "${displayName(name)}" is wrong`, at);
  }
  const header = bytes.subarray(at, at + HEADER_BYTES);
  return {
    entry: {
      magic,
      fields,
      name,
      data,
      raw: bytes.subarray(at, end),
      upperCase: header.some((c) => c >= 65 && c <= 70),
    },
    end,
  };
}

const TRAILER = latin1(TRAILER_NAME);
export const isTrailer = (entry: CpioEntry) =>
  entry.name.length === TRAILER.length && entry.name.every((b, i) => b === TRAILER[i]);

/**
 * Reads the one archive that starts at `start`, up to and with its trailer.
 * @throws {EternoError} `truncated`, `bad-field`, `too-large`, `bad-hash` (a 070702 checksum); offsets count
 *   in `bytes`
 */
export function readCpioArchive(bytes: Uint8Array, start: number): { archive: CpioArchive; end: number } {
  const entries: CpioEntry[] = [];
  let at = start;
  for (;;) {
    if (at >= bytes.length) throw fail('truncated', 'the archive ends without its trailer', at);
    const { entry, end } = readEntry(bytes, at);
    at = end;
    if (isTrailer(entry)) return { archive: { entries, trailer: entry }, end };
    if (entries.length >= LIMITS.cpioEntries)
      throw fail('too-large', `more than ${LIMITS.cpioEntries} entries`, at);
    entries.push(entry);
  }
}

/** An entry made here: header written anew in the given magic and hex case, zero padding. */
export function makeEntry(
  magic: string,
  upperCase: boolean,
  fields: Omit<Record<CpioField, number>, 'filesize' | 'namesize' | 'check'>,
  name: Uint8Array,
  data: Uint8Array,
): CpioEntry {
  let check = 0;
  if (magic === '070702' && (fields.mode & FILE_TYPE_MASK) === TYPE.file)
    for (const byte of data) check = (check + byte) >>> 0;
  return {
    magic,
    upperCase,
    fields: { ...fields, filesize: data.length, namesize: name.length + 1, check },
    name,
    data,
    raw: null,
  };
}

export function entryBytes(entry: CpioEntry): Uint8Array {
  if (entry.raw) return entry.raw;
  const hex = FIELDS.map((field) => entry.fields[field].toString(16).padStart(8, '0')).join('');
  const header = latin1(entry.magic + (entry.upperCase ? hex.toUpperCase() : hex));
  return concatBytes([
    header,
    entry.name,
    new Uint8Array(1 + pad4(HEADER_BYTES + entry.name.length + 1)),
    entry.data,
    new Uint8Array(pad4(entry.data.length)),
  ]);
}

export function archiveBytes(archive: CpioArchive): Uint8Array<ArrayBuffer> {
  return concatBytes([...archive.entries, archive.trailer].map(entryBytes));
}

/** A trailer as common writers make it. */
export function makeTrailer(magic = '070701', upperCase = false): CpioEntry {
  const zero = {
    ino: 0,
    mode: 0,
    nlink: 1,
    uid: 0,
    gid: 0,
    mtime: 0,
    devmajor: 0,
    devminor: 0,
    rdevmajor: 0,
    rdevminor: 0,
  };
  return makeEntry(magic, upperCase, zero, TRAILER, new Uint8Array(0));
}

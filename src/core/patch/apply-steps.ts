import { fromLatin1, replaceAllBytes, startsWith } from '../bytes/bytes';
import { EternoError } from '../errors';
import type { CpioArchive, CpioEntry } from '../formats/cpio/cpio-archive';
import { FILE_TYPE_MASK, isKind, makeEntry, makeTrailer, nameOf, TYPE } from '../formats/cpio/cpio-archive';
import type { Kit, KitStep, KitVariable } from '../kits/kit';
import { VARIABLE_PATTERN } from '../kits/kit';
import { LIMITS } from '../limits';
import type { RunningStep } from './steps-that-run';
import type { Inverse, Position } from './journal';
import { EntryJournal } from './journal';

export interface EntryChanges {
  readonly added: readonly string[];
  readonly removed: readonly string[];
  readonly changed: readonly string[];
  /** `old -> new`. */
  readonly moved: readonly string[];
}

export interface AppliedSteps {
  readonly archives: readonly (readonly CpioEntry[])[];
  readonly inverses: readonly Inverse[];
  readonly cmdline: string;
  readonly changes: EntryChanges;
}

/** Values for `{{name}}` in written texts. */
export type Variables = Readonly<Partial<Record<KitVariable, string>>>;

const NO_ARCHIVE: CpioArchive = { entries: [], trailer: makeTrailer() };
const utf8 = (text: string) => new TextEncoder().encode(text);
const failed = (step: number, message: string) =>
  new EternoError('kit-step-failed', `step ${step}: ${message}`, { details: { step } });

/**
 * Runs a kit's steps over the entries of all archives (docs/formats.md, "Patch kit"). Pure: the archives
 * given stay as they are.
 * @param steps those that run, with their numbers in the kit
 * @param archives none where only the command line is left to change
 * @throws {EternoError} `kit-step-failed` with the step's number, counted from 1
 */
export function applySteps(
  kit: Pick<Kit, 'files'>,
  steps: readonly RunningStep[],
  archives: readonly CpioArchive[],
  cmdline: string,
  variables: Variables,
): AppliedSteps {
  const journal = new EntryJournal(archives.map((archive) => archive.entries));
  const last = archives.at(-1) ?? NO_ARCHIVE;
  // some writers give the trailer the plain magic and everything else its checksum
  const magic = last.entries.some((entry) => entry.magic === '070702') ? '070702' : last.trailer.magic;
  const changes = {
    added: [] as string[],
    removed: [] as string[],
    changed: [] as string[],
    moved: [] as string[],
  };
  let line = cmdline;

  const requireDirectory = (step: number, path: string) => {
    const slash = path.lastIndexOf('/');
    if (slash < 0) return;
    const parent = path.slice(0, slash);
    const position = journal.inForce(utf8(parent));
    if (!position || !isKind(journal.at(position), TYPE.directory))
      throw failed(step, `"${parent}" is no directory in this ramdisk, so "${path}" would be dropped`);
  };
  const find = (step: number, path: string, ifPresent: boolean): Position | null => {
    const position = journal.inForce(utf8(path));
    if (!position && !ifPresent) throw failed(step, `"${path}" is not in this ramdisk`);
    return position;
  };
  /** Names of the entries that a step works on, in archive order. */
  const named = (
    number: number,
    { path, glob, ifPresent }: Extract<KitStep, { do: 'remove' | 'replaceText' }>,
  ): Uint8Array[] => {
    if (!glob) return find(number, path, ifPresent) ? [utf8(path)] : [];
    const pattern = globPattern(path);
    const names = journal
      .matching((name) => pattern.test(fromLatin1(name)))
      .map((position) => journal.at(position).name);
    if (names.length === 0 && !ifPresent) throw failed(number, `nothing in this ramdisk is called "${path}"`);
    return names;
  };
  const refuseHardLink = (step: number, entry: CpioEntry) => {
    if (!isKind(entry, TYPE.directory) && entry.fields.nlink > 1)
      throw failed(step, `"${nameOf(entry)}" is one of several links to one file`);
  };
  const refuseParent = (step: number, entry: CpioEntry) => {
    const prefix = new Uint8Array([...entry.name, 0x2f]);
    if (
      isKind(entry, TYPE.directory) &&
      journal.archives.some((entries) => entries.some((other) => startsWith(other.name, prefix)))
    ) {
      throw failed(step, `the directory "${nameOf(entry)}" still has entries below it`);
    }
  };
  const nextIno = () => {
    const highest = journal.archives.reduce(
      (most, entries) => entries.reduce((m, entry) => Math.max(m, entry.fields.ino), most),
      0,
    );
    if (highest === 0xffffffff)
      throw new EternoError('kit-step-failed', 'the ramdisk uses the highest inode there is');
    return highest + 1;
  };

  const put = (
    number: number,
    step: Extract<KitStep, { do: 'mkdir' | 'add' | 'write' | 'link' }>,
    mode: number,
    data: Uint8Array,
  ) => {
    const name = utf8(step.path);
    const position = journal.inForce(name);
    const directory = (mode & FILE_TYPE_MASK) === TYPE.directory;
    if (position) {
      if (!step.replace) throw failed(number, `"${step.path}" is in this ramdisk already`);
      const old = journal.at(position);
      refuseHardLink(number, old);
      if (!directory) refuseParent(number, old);
      const sameKind = (old.fields.mode & FILE_TYPE_MASK) === (mode & FILE_TYPE_MASK);
      const fields = {
        ...old.fields,
        mode,
        uid: step.uid ?? old.fields.uid,
        gid: step.gid ?? old.fields.gid,
        nlink: sameKind ? old.fields.nlink : directory ? 2 : 1,
        ...(sameKind ? {} : { rdevmajor: 0, rdevminor: 0 }),
      };
      journal.set(position, makeEntry(old.magic, old.upperCase, fields, old.name, data));
      if (!changes.changed.includes(step.path)) changes.changed.push(step.path);
      return;
    }
    requireDirectory(number, step.path);
    const fields = {
      ino: nextIno(),
      mode,
      nlink: directory ? 2 : 1,
      uid: step.uid ?? 0,
      gid: step.gid ?? 0,
      mtime: 0,
      devmajor: 0,
      devminor: 0,
      rdevmajor: 0,
      rdevminor: 0,
    };
    journal.append(makeEntry(magic, last.trailer.upperCase, fields, name, data));
    changes.added.push(step.path);
  };

  const run = (step: KitStep, number: number): void => {
    switch (step.do) {
      case 'mkdir':
        return put(number, step, TYPE.directory | step.mode, new Uint8Array(0));
      case 'add':
        return put(number, step, TYPE.file | step.mode, kit.files.get(step.from)!);
      case 'write':
        return put(number, step, TYPE.file | step.mode, utf8(fillIn(step.text, variables, number)));
      case 'link':
        return put(number, step, TYPE.link | 0o777, utf8(step.to));
      case 'keep': {
        const position = find(number, step.path, step.ifPresent);
        if (!position) return;
        const entry = journal.at(position);
        if (isKind(entry, TYPE.directory))
          throw failed(number, `"${step.path}" is a directory; only files, links and nodes can be kept`);
        refuseHardLink(number, entry);
        if (journal.inForce(utf8(step.as))) throw failed(number, `"${step.as}" is in this ramdisk already`);
        requireDirectory(number, step.as);
        journal.deleteAll(journal.copies(utf8(step.path)));
        journal.append(makeEntry(magic, last.trailer.upperCase, entry.fields, utf8(step.as), entry.data));
        changes.moved.push(`${step.path} -> ${step.as}`);
        return;
      }
      case 'remove': {
        for (const name of named(number, step)) {
          const copies = journal.copies(name);
          for (const copy of copies) {
            refuseHardLink(number, journal.at(copy));
            refuseParent(number, journal.at(copy));
          }
          const said = nameOf(journal.at(copies[0]!));
          journal.deleteAll(copies);
          changes.removed.push(said);
        }
        return;
      }
      case 'replaceText': {
        for (const name of named(number, step)) {
          const position = journal.inForce(name)!;
          const entry = journal.at(position);
          refuseHardLink(number, entry);
          const data = replaceAllBytes(entry.data, utf8(step.find), utf8(step.with));
          if (data === null && step.ifFound) continue;
          if (data === null) throw failed(number, `"${nameOf(entry)}" does not hold "${step.find}"`);
          journal.set(position, makeEntry(entry.magic, entry.upperCase, entry.fields, entry.name, data));
          if (!changes.changed.includes(nameOf(entry))) changes.changed.push(nameOf(entry));
        }
        return;
      }
      case 'cmdline':
        line = appendToCmdline(line, step.append, number);
        return;
      case 'replaceBytes':
      case 'kernel':
        // of sections: `apply-sections.ts`
        return;
    }
  };
  for (const { step, number } of steps) run(step, number);
  return { archives: journal.archives, inverses: journal.inverses, cmdline: line, changes };
}

const globPattern = (path: string): RegExp =>
  new RegExp(
    `^${fromLatin1(utf8(path))
      .replace(/[.+?^${}()|[\]\\]/g, '\\$&')
      .replaceAll('*', '[^/]*')}$`,
    's',
  );

function fillIn(text: string, variables: Variables, step: number): string {
  return text.replace(VARIABLE_PATTERN, (_, name: KitVariable) => {
    const value = variables[name]!;
    if (/["'\r\n]/.test(value)) throw failed(step, `the value of {{${name}}} holds a quote or a line break`);
    return value;
  });
}

/** A command line is one byte a character; texts of kits go in as UTF-8. */
function appendToCmdline(line: string, append: string, step: number): string {
  const addition = String.fromCharCode(...utf8(append));
  if (addition.includes('\0')) throw failed(step, 'the command line cannot hold a NUL');
  if (` ${line} `.includes(` ${addition} `)) return line;
  const longer = `${line} ${addition}`;
  if (longer.length > LIMITS.cmdlineBytes)
    throw failed(
      step,
      `the command line would be ${longer.length} bytes, ${longer.length - LIMITS.cmdlineBytes} too many`,
    );
  return longer;
}

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { errorOf } from '../../../tests/fixtures/expect-error';
import { archive, entry, folder, stockEntries, utf8 } from '../../../tests/fixtures/images';
import type { CpioArchive, CpioEntry } from '../formats/cpio/cpio-archive';
import { archiveBytes, makeTrailer, nameOf, readCpioArchive, TYPE } from '../formats/cpio/cpio-archive';
import type { Kit, KitStep } from '../kits/kit';
import { applySteps } from './apply-steps';
import { sameEntries, undoAll } from './journal';
import { tries } from '../../../tests/fixtures/soak';

const owned = { uid: null, gid: null, replace: false } as const;
/** A step of version 1: what it does not say is as it was before there was more. */
type Without<T> = T extends KitStep ? Omit<T, 'when' | 'fragment' | 'glob' | 'ifFound'> : never;
type Short = Without<KitStep>;
const whole = (step: Short): KitStep =>
  ({ when: [], fragment: null, glob: false, ifFound: false, ...step }) as unknown as KitStep;
const kit = (...steps: Short[]): Kit => ({
  formatVersion: 1,
  options: {},
  afterFailedStarts: null,
  companion: null,
  id: 'k',
  name: 'K',
  version: '1',
  versionCode: 1,
  channel: 'stable',
  supports: { sdk: null, partitions: null, architectures: null },
  marker: null,
  steps: steps.map(whole),
  files: new Map([['f', utf8('a file')]]),
});
const variables = {
  'stock.sha256': 'abc',
  'kit.id': 'k',
  'kit.version': '1',
  'build.fingerprint': 'b/p/d:1/i/2:user/keys',
};
const applied = (
  of: Kit,
  archives: CpioArchive[],
  line: string,
  values: Parameters<typeof applySteps>[4] = variables,
) =>
  applySteps(
    of,
    of.steps.map((step, i) => ({ step, number: i + 1 })),
    archives,
    line,
    values,
  );
const apply = (archives: CpioArchive[], ...steps: Short[]) => applied(kit(...steps), archives, 'one two');
const names = (entries: readonly CpioEntry[]) => entries.map(nameOf);
const stock = () => [archive(...stockEntries())];
const failing = async (archives: CpioArchive[], ...steps: Short[]) =>
  errorOf(() => apply(archives, ...steps));

describe('new entries', () => {
  it('go to the end of the last archive with the next inode', () => {
    const first = archive(folder('x', 900));
    const { archives, changes } = apply(
      [first, ...stock()],
      { do: 'mkdir', path: '.k', mode: 0o750, ...owned },
      { do: 'add', path: '.k/f', from: 'f', mode: 0o755, ...owned, gid: 2000 },
    );
    expect(archives[0]!).toHaveLength(1);
    const [made, file] = archives[1]!.slice(-2);
    expect(made).toMatchObject({
      fields: { ino: 901, mode: TYPE.directory | 0o750, nlink: 2, uid: 0, gid: 0, mtime: 0 },
    });
    expect(file).toMatchObject({ fields: { ino: 902, mode: TYPE.file | 0o755, nlink: 1, gid: 2000 } });
    expect(changes.added).toEqual(['.k', '.k/f']);
  });

  it('take the magic and hex case of the last trailer', () => {
    const last = readCpioArchive(
      utf8(new TextDecoder().decode(archiveBytes(archive(folder('d')))).replace('0000000b', '0000000B')),
      0,
    ).archive;
    const { archives } = apply([last], { do: 'link', path: 'l', to: 'd', ...owned });
    expect(archives[0]!.at(-1)).toMatchObject({
      upperCase: true,
      magic: '070701',
      fields: { mode: TYPE.link | 0o777 },
    });
    expect([...archives[0]!.at(-1)!.data]).toEqual([...utf8('d')]);
  });

  it.each(['070701', '070702'])(
    'of an archive with checksums carry theirs, also behind a trailer of %s',
    (trailerMagic) => {
      const sums = archive(entry('f', 'abc', { magic: '070702' }), entry('init', 'xyz', { magic: '070702' }));
      const stockOf = { ...sums, trailer: makeTrailer(trailerMagic) };
      const { archives } = apply(
        [stockOf],
        { do: 'add', path: 'new', from: 'f', mode: 0o644, ...owned },
        { do: 'add', path: 'f', from: 'f', mode: 0o644, ...owned, replace: true },
        { do: 'keep', path: 'init', as: 'kept', ifPresent: false },
      );
      const sum = (text: string) => [...utf8(text)].reduce((total, byte) => total + byte, 0);
      const told = archives[0]!.map((one) => [nameOf(one), one.magic, one.fields.check]);
      expect(told).toEqual([
        ['f', '070702', sum('a file')],
        ['new', '070702', sum('a file')],
        ['kept', '070702', sum('xyz')],
      ]);
      const bytes = archiveBytes({ entries: archives[0]!, trailer: stockOf.trailer });
      expect(readCpioArchive(bytes, 0).archive.entries).toHaveLength(3);
    },
  );

  it('need their parent in force as a directory', async () => {
    expect(
      (await failing(stock(), { do: 'mkdir', path: 'no/where', mode: 0o750, ...owned })).message,
    ).toContain('"no"');
    expect((await failing(stock(), { do: 'link', path: 'init/x', to: 'y', ...owned })).code).toBe(
      'kit-step-failed',
    );
  });

  it('may not be there yet, unless they replace', async () => {
    const step = { do: 'write', path: 'init', text: 'new', mode: 0o700, ...owned } as const;
    expect((await failing(stock(), step)).message).toContain('already');
    const before = stock()[0]!.entries[2]!;
    const { archives, changes } = apply(stock(), { ...step, replace: true, uid: 7 });
    const after = archives[0]![2]!;
    expect(after.fields).toMatchObject({
      ino: before.fields.ino,
      mtime: before.fields.mtime,
      gid: before.fields.gid,
      uid: 7,
      mode: TYPE.file | 0o700,
    });
    expect(changes.changed).toEqual(['init']);
    expect(apply(stock(), { ...step, path: 'fresh', replace: true }).changes.added).toEqual(['fresh']);
  });

  it('fill in variables, and refuse a value that would break out of its quotes', async () => {
    const text = '{"s":"{{stock.sha256}}","b":"{{build.fingerprint}}"}';
    const { archives } = apply(stock(), { do: 'write', path: 'p', text, mode: 0o640, ...owned });
    expect(new TextDecoder().decode(archives[0]!.at(-1)!.data)).toBe(
      '{"s":"abc","b":"b/p/d:1/i/2:user/keys"}',
    );
    const error = await errorOf(() =>
      applied(kit({ do: 'write', path: 'p', text, mode: 0o640, ...owned }), stock(), '', {
        ...variables,
        'build.fingerprint': 'x"y',
      }),
    );
    expect(error.code).toBe('kit-step-failed');
  });
});

describe('keep', () => {
  it('moves the entry in force to the end and drops its other copies', () => {
    const archives = [
      archive(entry('init', 'old', { ino: 5 }), folder('k')),
      archive(entry('init', 'new', { ino: 6, mode: TYPE.file | 0o711 })),
    ];
    const result = apply(archives, { do: 'keep', path: 'init', as: 'k/init', ifPresent: false });
    expect(result.archives.map(names)).toEqual([['k'], ['k/init']]);
    expect(result.archives[1]![0]).toMatchObject({ fields: { ino: 6, mode: TYPE.file | 0o711 } });
    expect(result.changes.moved).toEqual(['init -> k/init']);
  });

  it('refuses folders, hard links, names in use and parents that are not there', async () => {
    const step = { do: 'keep', path: 'init', as: 'kept', ifPresent: false } as const;
    expect((await failing(stock(), { ...step, path: 'dev' })).message).toContain('directory');
    expect((await failing([archive(entry('init', '', { nlink: 2 }))], step)).message).toContain('links');
    expect((await failing(stock(), { ...step, as: 'verity_key' })).message).toContain('already');
    expect((await failing(stock(), { ...step, as: 'no/init' })).message).toContain('"no"');
  });
});

describe('remove', () => {
  it('drops every copy', () => {
    const result = apply([archive(entry('a', '1'), entry('b')), archive(entry('a', '2'))], {
      do: 'remove',
      path: 'a',
      ifPresent: false,
    });
    expect(result.archives.map(names)).toEqual([['b'], []]);
  });
  it('refuses a folder with something in it', async () => {
    expect(
      (await failing(stock(), { do: 'remove', path: 'first_stage_ramdisk', ifPresent: false })).message,
    ).toContain('below');
    expect(names(apply(stock(), { do: 'remove', path: 'dev', ifPresent: false }).archives[0]!)).not.toContain(
      'dev',
    );
  });
});

describe('replaceText', () => {
  const change = (data: string, find: string, text: string) =>
    new TextDecoder().decode(
      apply([archive(entry('f', data))], { do: 'replaceText', path: 'f', find, with: text, ifPresent: false })
        .archives[0]![0]!.data,
    );
  it.each([
    ['aXbXc', 'X', '--', 'a--b--c'],
    ['aaaa', 'aa', 'b', 'bb'],
    ['aaa', 'aa', 'b', 'ba'],
    ['abc', 'abc', '', ''],
  ])('turns %s with %s to %s', (data, find, text, expected) =>
    expect(change(data, find, text)).toBe(expected),
  );
  it('finds nothing: an error, also with ifPresent', async () => {
    expect(
      (await failing(stock(), { do: 'replaceText', path: 'init', find: 'zzzzzz', with: '', ifPresent: true }))
        .code,
    ).toBe('kit-step-failed');
  });
});

describe('what is absent', () => {
  const steps: Short[] = [
    { do: 'keep', path: 'gone', as: 'x', ifPresent: true },
    { do: 'remove', path: 'gone', ifPresent: true },
    { do: 'replaceText', path: 'gone', find: 'a', with: 'b', ifPresent: true },
  ];
  it('is passed over with ifPresent', () =>
    expect(apply(stock(), ...steps).changes).toEqual({ added: [], removed: [], changed: [], moved: [] }));
  it.each(steps)('is an error in $do without', async (step) => {
    const error = await failing(stock(), { ...step, ifPresent: false } as KitStep);
    expect(error).toMatchObject({ code: 'kit-step-failed', details: { step: 1 } });
  });
  it('is told apart by every byte of its name', async () => {
    expect((await failing(stock(), { do: 'remove', path: 'INIT', ifPresent: false })).message).toContain(
      'INIT',
    );
  });
});

describe('cmdline', () => {
  const line = (before: string, append: string) =>
    applied(kit({ do: 'cmdline', append }), stock(), before).cmdline;
  it.each([
    ['one two', 'x=1', 'one two x=1'],
    ['one two', 'two', 'one two'],
    ['onetwo', 'two', 'onetwo two'],
    ['', 'x', ' x'],
  ])('%j and %j give %j', (before, append, after) => expect(line(before, append)).toBe(after));
  it('has an end', async () => {
    expect((await errorOf(() => line('y'.repeat(1530), 'xxxxx'))).message).toContain('too many');
    expect(line('y'.repeat(1529), 'xxxxx')).toHaveLength(1535);
  });
});

describe('inverse edits', () => {
  const anyStep: fc.Arbitrary<Short> = fc.oneof(
    fc
      .constantFrom('a', 'b', 'd/c', 'dev/x')
      .map((path): Short => ({ do: 'write', path, text: 'text', mode: 0o644, ...owned, replace: true })),
    fc
      .constantFrom('init', 'a', 'verity_key')
      .map((path): Short => ({ do: 'keep', path, as: `dev/${path}.kept`, ifPresent: true })),
    fc.constantFrom('a', 'verity_key', 'b').map((path): Short => ({ do: 'remove', path, ifPresent: true })),
    fc.constant<Short>({
      do: 'replaceText',
      path: 'first_stage_ramdisk/fstab.demo',
      find: 'verify',
      with: 'verify',
      ifPresent: true,
    }),
    fc.constant<Short>({ do: 'mkdir', path: 'd', mode: 0o755, ...owned, replace: true }),
  );
  it('give the stock entries back, whatever the steps did', () => {
    fc.assert(
      fc.property(fc.array(anyStep, { maxLength: 12 }), fc.boolean(), (steps, twoArchives) => {
        const archives = twoArchives
          ? [archive(entry('a', '1'), entry('init', 'early')), ...stock()]
          : stock();
        const before = archives.map((one) => archiveBytes(one));
        let result;
        try {
          result = apply(archives, ...steps);
        } catch {
          return;
        }
        const undone = undoAll(result.archives, result.inverses);
        expect(undone.every((entries, i) => sameEntries(entries, archives[i]!.entries))).toBe(true);
        archives.forEach((one, i) => expect(Buffer.compare(archiveBytes(one), before[i]!)).toBe(0));
      }),
      tries(300),
    );
  });
});

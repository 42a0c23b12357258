import { describe, expect, it } from 'vitest';
import type { PackageContent } from '@/core/packages/package-report';
import { checkAgainst, parseChecksums } from '@/core/table/checksum-list';
import type { FileOnTable } from '@/core/table/roll-call';
import { rollCall } from '@/core/table/roll-call';
import { pristineStates, predictRefusal } from '@/core/fit/pristine';
import { plainImage, UNKNOWN_BUILD } from '@/core/packages/package-report';
import { secondsLeft } from '@/ui/format';
import { contentRows } from '@/features/firmware/content-rows';
import { layOutBars, panned, ticks, viewAbout, zoomed } from '@/features/image/byte-map-layout';
import { entryRows, kindOf, permissionsOf, searchRows } from '@/core/packages/entry-rows';
import { asText, hexRow } from '@/features/image/hex-rows';
import type { CalendarHandset } from '@/contracts/calendar-view';
import { cadenceOf } from '@/core/schedule/cadence';
import { calendarNext } from '@/features/calendar/calendar-next';
import { sideBySide } from '@/features/image/side-by-side';

const content = (path: string, size: number | null, partition: string | null = null): PackageContent => ({
  path,
  size,
  partition,
  sha256: null,
  crc32: null,
});

describe('contents of a package', () => {
  const tree = [
    content('META/a', 3),
    content('payload.bin', 900),
    content('payload.bin/boot', 500, 'boot'),
    content('META/b/c', 4),
  ];
  it('stand as a tree, what holds images first, folders with all that is in them', () => {
    const rows = contentRows(tree, new Set());
    expect(rows.map(({ label, depth, folder, size, count }) => [label, depth, folder, size, count])).toEqual([
      ['payload.bin', 0, true, 900, 1],
      ['boot', 1, false, 500, 1],
      ['META', 0, true, 7, 2],
      ['a', 1, false, 3, 1],
      ['b', 1, true, 4, 1],
      ['c', 2, false, 4, 1],
    ]);
  });
  it('hide what is in closed folders', () => {
    expect(contentRows(tree, new Set(['META'])).map(({ label }) => label)).toEqual([
      'payload.bin',
      'boot',
      'META',
    ]);
  });
  it('bear five thousand files', () => {
    const many = Array.from({ length: 5000 }, (_, i) => content(`d${i % 50}/f${i}`, i));
    expect(contentRows(many, new Set())).toHaveLength(5050);
  });
});

describe('the byte map', () => {
  const regions = [
    { kind: 'section', name: 'header', start: 0, end: 100 },
    { kind: 'padding', name: 'padding', start: 100, end: 4096 },
    { kind: 'section', name: 'ramdisk', start: 4096, end: 1_000_000 },
  ] as const;
  it('keeps its views inside the file', () => {
    const size = 1_000_000;
    for (const view of [
      viewAbout(0, 5000, size),
      viewAbout(size, 5000, size),
      zoomed({ start: 0, end: size }, 4, 0.9, size),
      panned({ start: 0, end: 1000 }, -3, size),
      viewAbout(50, 1, size),
    ]) {
      expect(view.start).toBeGreaterThanOrEqual(0);
      expect(view.end).toBeLessThanOrEqual(size);
      expect(view.end - view.start).toBeGreaterThanOrEqual(512);
    }
  });
  it('goes in about the byte under the pointer', () => {
    const view = zoomed({ start: 0, end: 1_000_000 }, 0.5, 0.25, 1_000_000);
    expect(view).toEqual({ start: 125_000, end: 625_000 });
  });
  it('shows what is in view, never thinner than can be seen', () => {
    const bars = layOutBars(regions, { start: 0, end: 1_000_000 });
    expect(bars.map(({ region }) => region.name)).toEqual(['header', 'padding', 'ramdisk']);
    expect(bars.every(({ width, left }) => width >= 0.25 && left >= 0)).toBe(true);
    expect(layOutBars(regions, { start: 5000, end: 6000 })).toMatchObject([{ left: 0, width: 100 }]);
  });
  it('has a scale of round places', () =>
    expect(ticks({ start: 0, end: 8 << 20 }).map(({ at }) => at)).toEqual(
      [0, 1, 2, 3, 4].map((n) => n * (2 << 20)),
    ));
});

describe('a ramdisk’s entries', () => {
  const report = (name: string, mode = '100644') => ({
    name,
    nameHex: Buffer.from(name).toString('hex'),
    mode,
    ino: 1,
    nlink: 1,
    uid: 0,
    gid: 0,
    mtime: 0,
    rdev: [0, 0] as const,
    size: 1,
    sha256: '',
  });
  const ramdisk = {
    archives: [
      {
        compression: 'none' as const,
        entries: [report('init'), report('lost/alone'), report('etc/fstab'), report('etc', '40755')],
      },
      { compression: 'gzip' as const, entries: [report('init')] },
    ],
  };
  it('know their place, and which of several counts', () => {
    expect(
      entryRows(ramdisk).map(({ label, depth, archive, overruled }) => [label, depth, archive, overruled]),
    ).toEqual([
      ['etc', 0, 1, false],
      ['fstab', 1, 1, false],
      ['init', 0, 1, true],
      ['init', 0, 2, false],
      ['lost/alone', 0, 1, false],
    ]);
  });
  it('are found by every word', () => {
    const rows = entryRows(ramdisk);
    expect(searchRows(rows, 'ETC fst')).toHaveLength(1);
    expect(searchRows(rows, '  ')).toBe(rows);
    expect(searchRows(rows, 'none')).toEqual([]);
  });
  it.each([
    ['40755', 'folder', 'rwxr-xr-x'],
    ['100640', 'file', 'rw-r-----'],
    ['120777', 'link', 'rwxrwxrwx'],
    ['20600', 'character node', 'rw-------'],
  ])('of mode %s are told in words', (mode, kind, permissions) =>
    expect([kindOf({ mode }), permissionsOf({ mode })]).toEqual([kind, permissions]),
  );
});

describe('the viewer', () => {
  it('tells text from bytes', () => {
    expect(asText(new TextEncoder().encode('grüße\n\ttab'))).toBe('grüße\n\ttab');
    expect(asText(Uint8Array.of(1, 2, 3))).toBeNull();
    expect(asText(Uint8Array.of(0xff, 0xfe))).toBeNull();
  });
  it('writes bytes in rows', () =>
    expect(
      hexRow(
        Uint8Array.from({ length: 20 }, (_, i) => 60 + i),
        1,
      ),
    ).toEqual({ offset: '00000010', hex: '4c 4d 4e 4f'.padEnd(47), text: 'LMNO' }));
  it('puts lines side by side, and long stretches away', () => {
    const same = `${Array.from({ length: 20 }, (_, i) => `line ${i}`).join('\n')}\n`;
    const rows = sideBySide([
      { value: same },
      { value: 'old\n', removed: true },
      { value: 'new\nmore\n', added: true },
      { value: 'end\n' },
    ]);
    expect(rows.filter((row) => !row.same)).toEqual([
      { same: false, a: 'old', b: 'new' },
      { same: false, a: null, b: 'more' },
    ]);
    expect(rows[0]!.a).toContain('14 lines');
    expect(rows.at(-1)).toEqual({ same: true, a: 'end', b: 'end' });
  });
});

describe('checksums', () => {
  const sha = 'a'.repeat(64);
  it.each([
    [`${sha}  file.zip`, 'sha256', 'file.zip'],
    [`${'B'.repeat(32)} *file.zip`, 'md5', 'file.zip'],
    [`SHA256 (file.zip) = ${sha}`, 'sha256', 'file.zip'],
    [`sha1: ${'c'.repeat(40)}`, 'sha1', null],
    [sha, 'sha256', null],
  ])('are read from "%s"', (text, algorithm, name) =>
    expect(parseChecksums(text)).toMatchObject([{ algorithm, name }]),
  );
  it('are not made of anything else', () =>
    expect(parseChecksums(`hello\n${'a'.repeat(63)}\n# ${'z'.repeat(64)}`)).toEqual([]));
  it('speak of the file they name only', () => {
    const stated = parseChecksums(`${sha}  other.zip\n${'b'.repeat(64)}  dir/file.zip`);
    expect(checkAgainst(stated, 'file.zip', { sha256: 'b'.repeat(64) }).verdict).toBe('holds');
    expect(checkAgainst(stated, 'file.zip', { sha256: sha }).verdict).toBe('differs');
    expect(checkAgainst(stated, 'third.zip', { sha256: sha }).verdict).toBe('silent');
    expect(checkAgainst(parseChecksums(sha), 'third.zip', { sha256: sha }).verdict).toBe('holds');
  });
});

describe('the roll-call', () => {
  const file = (name: string, patchLevel: string | null, size = 1): FileOnTable => ({
    name,
    size,
    role: 'package',
    says: '',
    report: {
      kind: 'update-zip',
      incremental: false,
      build: { ...UNKNOWN_BUILD, patchLevel, devices: ['hill'] },
      images: [],
      evidence: [],
      warnings: [],
      writes: [],
    },
  });
  it('names doubled, stale and wrong-shelf files', () => {
    const files = [
      file('new', '2026-11-05'),
      file('old', '2026-10-05'),
      file('again', '2026-11-05'),
      file('other', '2026-11-05', 2),
    ];
    const notes = rollCall(files, [['exact'], ['older'], ['exact'], ['other variant', 'other handset']]);
    expect(notes.map((own) => own.map(({ code }) => code))).toEqual([
      [],
      ['stale'],
      ['doubled'],
      ['wrong-shelf'],
    ]);
  });
  it('names a file whose name speaks of another build than its content', () => {
    const of = (name: string, buildId: string | null): FileOnTable => {
      const one = file(name, '2026-11-05', name.length);
      return { ...one, report: { ...one.report!, build: { ...one.report!.build, buildId } } };
    };
    const files = [
      of('HC1.261005.001.zip', 'HC1.260905.007'),
      of('init_boot-HC1.260905.007.zip', 'HC1.260905.007'),
      of('HC1.261005.001-again.zip', null),
    ];
    expect(rollCall(files, [[], [], []])).toEqual([
      [{ code: 'renamed', name: 'HC1.261005.001', content: 'HC1.260905.007' }],
      [],
      [],
    ]);
  });
});

describe('what an incremental update must find', () => {
  const images = [
    plainImage('boot', 1, { source: { size: 1, sha256: 'aa' } }),
    plainImage('init_boot', 1, { source: { size: 1, sha256: 'bb' } }),
    plainImage('dtbo', 1),
  ];
  const held = (partition: string, sha256: string | null) => ({
    partition,
    sha256,
    certainty: 'read' as const,
  });
  it('is held against the running slot', () => {
    const states = pristineStates(images, [held('boot', 'aa'), held('init_boot', 'cc')]);
    expect(states.map(({ state }) => state)).toEqual(['holds it', 'holds another']);
    expect(predictRefusal(states)).toEqual({ refusedFor: ['init_boot'] });
    expect(predictRefusal(pristineStates(images, [held('boot', 'aa'), held('init_boot', 'bb')]))).toEqual({
      refusedFor: [],
    });
    expect(predictRefusal(pristineStates(images, [held('boot', 'aa'), held('init_boot', null)]))).toBeNull();
  });
});

describe('time left', () => {
  it('goes by the pace so far', () => {
    expect(secondsLeft(50, 100, 10)).toBe(10);
    expect([secondsLeft(0, 100, 10), secondsLeft(50, 100, 0.1), secondsLeft(100, 100, 5)]).toEqual([
      null,
      null,
      null,
    ]);
  });
});

describe('the calendar in a line', () => {
  const handset = (name: string, change: Partial<CalendarHandset> = {}): CalendarHandset => ({
    id: name.toLowerCase(),
    name,
    build: 'B.1',
    waiting: { buildId: 'B.2', at: 0 },
    daysBehind: 4,
    cadence: cadenceOf([0], [], 0),
    rule: { days: 0, kit: false, modules: 0 },
    wait: null,
    readiness: { verdict: 'go', build: 'B.2', reasons: [] },
    putBacks: [],
    clocks: [],
    ...change,
  });
  const waits = { wait: { over: false, until: 9, says: { build: 'B.2', reasons: [] } } };
  const unknown = { readiness: { verdict: "can't tell" as const, build: 'B.2', reasons: [] } };
  const held = {
    readiness: {
      verdict: 'hold' as const,
      build: 'B.2',
      reasons: [{ code: 'no-kit-for-level' as const }],
    },
  };
  it.each<[string, readonly CalendarHandset[], RegExp, string]>([
    ['all are on the newest', [handset('Ridge', { waiting: null })], /Nothing is to be done/, '/'],
    [
      'one is ready',
      [handset('Ridge'), handset('Barn', waits)],
      /^Ridge can take its update now/,
      '/rounds/new?handset=ridge',
    ],
    [
      'several are ready',
      ['A', 'B', 'C', 'D'].map((name) => handset(name)),
      /^A, B and 2 others can take their updates now/,
      '/',
    ],
    [
      'nobody opened the package',
      [handset('Ridge', unknown), handset('Barn', { ...unknown, ...waits })],
      /^Open B\.2: the package tells whether Ridge can/,
      '/firmware',
    ],
    ['something holds it', [handset('Ridge', held)], /^Ridge is held: no kit supports/, '/'],
    ['a rule holds all', [handset('Ridge', waits), handset('Barn', waits)], /your own rules/, '/'],
  ])('%s', (_what, handsets, sentence, href) => {
    const next = calendarNext(handsets);
    expect(next.sentence).toMatch(sentence);
    expect(next.href).toBe(href);
  });
});

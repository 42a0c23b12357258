import { describe, expect, it } from 'vitest';
import type { BenchRow } from '@/contracts/handset-view';
import { benchHeadline, sortedRows } from '@/features/bench/bench-headline';
import { closestFit, verdictWords } from '@/features/firmware/verdict-words';
import { stageTimes } from '@/core/rounds/stage-time';
import type { Stage } from '@/core/steps/step-kind';
import { layOutStageBars } from '@/features/log/stage-bars-layout';
import type { StepView } from '@/contracts/step-view';
import { layOutRoute } from '@/features/round/route-layout';
import {
  bandAt,
  bandRange,
  FOUR_YEARS,
  layOutBand,
  monthStarts,
  statePaths,
  yearStarts,
} from '@/ui/charts/continuity-layout';
import type { Matrix } from '@/contracts/module-view';
import { sameRounds } from '@/features/bench/same-rounds';
import type { FamilyNode } from '@/core/lineage/families';
import { layOutFamily } from '@/features/image/family-layout';
import { layOutMatrix } from '@/features/modules/matrix-layout';
import {
  formatAge,
  formatBytes,
  formatDay,
  formatSeconds,
  formatTime,
  listNames,
  shortBuild,
  shortHash,
} from '@/ui/format';

const NOW = Date.parse('2026-11-10T14:02:00Z');
const day = (text: string) => Date.parse(`${text}T00:00:00Z`);

describe('the continuity band', () => {
  it('shows ten months, this one last', () => {
    const months = monthStarts(bandRange(NOW));
    expect(months.map((at) => new Date(at).toISOString().slice(0, 7))).toEqual([
      '2026-02',
      '2026-03',
      '2026-04',
      '2026-05',
      '2026-06',
      '2026-07',
      '2026-08',
      '2026-09',
      '2026-10',
      '2026-11',
      '2026-12',
    ]);
  });
  it('puts spans, builds and what waits where their time is', () => {
    const spans = [
      { from: day('2025-12-01'), to: day('2026-09-01'), state: 'stock' as const },
      { from: day('2026-09-01'), to: NOW - 1000, state: 'proven' as const },
      { from: NOW - 1000, to: NOW, state: 'lost' as const },
    ];
    const band = layOutBand(
      spans,
      [
        { buildId: 'old', at: day('2025-01-01') },
        { buildId: 'new', at: day('2026-10-05') },
      ],
      day('2026-11-05'),
      bandRange(NOW),
      NOW,
      500,
    );
    expect(band.rects[0]!.x).toBe(0);
    expect(band.rects[1]!.x).toBeCloseTo(band.rects[0]!.x + band.rects[0]!.width);
    expect(band.rects[2]!.width).toBe(3);
    expect(band.rects[2]!.x + band.rects[2]!.width).toBeCloseTo(band.nowX);
    expect(band.builds.map((build) => build.buildId)).toEqual(['new']);
    expect(band.waitingX).toBeGreaterThan(band.builds[0]!.x);
    expect(band.nowX).toBeLessThan(500);
  });
});

describe('the route', () => {
  const step = (mode: StepView['mode'], more: Partial<StepView> = {}): StepView => ({
    version: 1,
    key: 'check',
    title: mode,
    slot: 'a',
    build: '',
    rootAfter: null,
    offers: 0,
    ifItEndsHere: '',
    minutes: [2, 4],
    mode,
    writes: false,
    erases: false,
    starts: false,
    holds: false,
    pointOfNoReturn: false,
    state: 'waiting',
    ...more,
  });
  const steps = [
    step('system'),
    step('computer', { minutes: [0.1, 1] }),
    step('system', { holds: true }),
    step('system', { writes: true, holds: true }),
    step('system', { starts: true, pointOfNoReturn: true }),
    step('bootloader', { erases: true }),
  ];
  const route = layOutRoute(steps, 3, { width: 768, height: 150, left: 90 });
  it('goes from left to right, each step on the line of its mode, none on top of another', () => {
    const xs = route.stops.map((stop) => stop.x);
    for (let i = 1; i < xs.length; i += 1) expect(xs[i]! - xs[i - 1]!).toBeGreaterThan(20);
    for (const [i, stop] of route.stops.entries())
      expect(stop.y).toBe(route.modes.find((mode) => mode.name === steps[i]!.mode)!.y);
    expect(route.modes.map((mode) => mode.name)).toEqual(['computer', 'system', 'bootloader']);
    expect(Math.max(...xs)).toBeLessThanOrEqual(768);
    expect(route.stops.filter((stop) => stop.current).map((stop) => stop.index)).toEqual([3]);
  });
  it('shades what may not restart up to its start, and marks where a way back ends', () => {
    expect(route.holds).toHaveLength(1);
    expect(route.holds[0]!.from).toBe(route.stops[2]!.x);
    expect(route.holds[0]!.to).toBe(route.stops[3]!.x);
    expect(route.noReturn).toEqual([route.stops[4]!.x]);
    expect(route.stops.map((stop) => stop.kind)).toEqual([
      'plain',
      'plain',
      'plain',
      'write',
      'start',
      'wipe',
    ]);
  });
});

describe('time by stage', () => {
  it('adds a round’s steps up, to the scale of the longest', () => {
    const step = (stage: Stage, seconds: number | null) => ({ stage, seconds });
    const bars = layOutStageBars(
      stageTimes([
        step('Know', 20),
        step('Flash', 30),
        step('Flash', 10),
        step('Know', null),
        step('Prove', null),
      ]),
      120,
      900,
    );
    expect(bars.map((bar) => [bar.stage, bar.seconds, bar.x, bar.width])).toEqual([
      ['Know', 20, 0, 150],
      ['Flash', 40, 150, 300],
    ]);
  });
});

describe('a band in few pieces', () => {
  const spans = [
    { from: day('2026-10-01'), to: day('2026-10-10'), state: 'proven' as const },
    { from: day('2026-10-10'), to: day('2026-10-20'), state: 'lost' as const },
    { from: day('2026-10-20'), to: day('2026-11-10'), state: 'proven' as const },
  ];
  const builds = [{ buildId: 'OPA1', at: day('2026-10-10') }];
  const begun = [{ title: 'Root again', at: day('2026-10-20') }];
  const band = layOutBand(spans, builds, null, bandRange(NOW), NOW, 560, begun);

  it('has one path a state, each with all its stretches', () => {
    const paths = statePaths(band.rects, 24, 13);
    expect(paths.map(({ state, d }) => [state, d.split('z').length - 1])).toEqual([
      ['proven', 2],
      ['lost', 1],
    ]);
    expect(paths[1]!.d).toBe(
      `M${Math.round(band.rects[1]!.x * 100) / 100} 24h${Math.round(band.rects[1]!.width * 100) / 100}v13h${-Math.round(band.rects[1]!.width * 100) / 100}z`,
    );
  });

  it('says what stands at a place, and what is near it', () => {
    const at = (rect: number) => band.rects[rect]!.x + band.rects[rect]!.width / 2;
    expect(bandAt(band, at(1))).toMatchObject({ span: { state: 'lost' }, builds: [], begun: [] });
    expect(bandAt(band, band.builds[0]!.x + 2).builds.map(({ buildId }) => buildId)).toEqual(['OPA1']);
    expect(bandAt(band, band.begun[0]!.x).begun.map(({ title }) => title)).toEqual(['Root again']);
    expect(bandAt(band, 1).span).toBeNull();
  });
});

describe('names in a row', () => {
  it.each([
    [[], ''],
    [['A'], 'A'],
    [['A', 'B'], 'A and B'],
    [['A', 'B', 'C'], 'A, B and C'],
    [['A', 'B', 'C', 'D', 'E'], 'A, B and 3 others'],
  ])('%j', (names, words) => expect(listNames(names)).toBe(words));
});

describe('years of many handsets', () => {
  const MONTH = 30 * 86_400_000;
  it('are laid out in as many pieces as there are changes, however many months go by', () => {
    const states = ['proven', 'proven', 'lost', 'proven', 'broken'] as const;
    for (let handset = 0; handset < 40; handset += 1) {
      const spans = Array.from({ length: 48 }, (_one, i) => ({
        from: NOW - (48 - i) * MONTH,
        to: NOW - (47 - i) * MONTH,
        state: states[(i + handset) % 5]!,
      }));
      const builds = spans.map((span, i) => ({ buildId: `B.${i}`, at: span.from }));
      const band = layOutBand(spans, builds, null, bandRange(NOW, FOUR_YEARS), NOW, 560);
      expect(band.rects.length).toBeLessThan(spans.length);
      for (const rect of band.rects) expect(rect.x >= 0 && rect.x + rect.width <= 560.001).toBe(true);
    }
    expect(yearStarts(bandRange(NOW, FOUR_YEARS)).reduce((sum, { share }) => sum + share, 0)).toBe(
      FOUR_YEARS,
    );
  });
});

describe('the matrix', () => {
  const matrix = (rows: number, columns: number): Matrix => ({
    columns: Array.from({ length: columns }, (_one, i) => ({
      fingerprint: `f${i}`,
      buildId: `B.${i}`,
      product: i % 2 === 0 ? 'hill' : 'dale',
    })),
    rows: Array.from({ length: rows }, (_one, i) => ({
      kind: 'module' as const,
      id: `m${i}`,
      name: `Module ${i}`,
      cells: {
        f0: { outcome: i === 3 ? ('looped' as const) : ('worked' as const), trials: 1, note: '', at: 0 },
      },
    })),
  });
  const all = { text: '', product: null, trouble: false };
  it('of 40 by 24 is readable: every row and column has its own place, none narrower than its mark, and it fits the room', () => {
    const layout = layOutMatrix(matrix(40, 24), all, 1220);
    expect(layout.width).toBeLessThanOrEqual(1220);
    expect(layout.rows).toHaveLength(40);
    expect(layout.columns).toHaveLength(24);
    layout.columns.forEach(
      (column, i) => i > 0 && expect(column.x - layout.columns[i - 1]!.x).toBeGreaterThanOrEqual(17),
    );
    layout.rows.forEach(
      (row, i) => i > 0 && expect(row.y - layout.rows[i - 1]!.y).toBeGreaterThanOrEqual(20),
    );
  });
  it('is filtered by name, model and trouble, and shows the newest builds where all do not fit', () => {
    expect(
      layOutMatrix(matrix(12, 4), { ...all, text: 'le 11' }, 1220).rows.map(({ row }) => row.id),
    ).toEqual(['m11']);
    expect(layOutMatrix(matrix(12, 4), { ...all, product: 'hill' }, 1220).columns).toHaveLength(2);
    expect(
      layOutMatrix(matrix(12, 4), { ...all, trouble: true }, 1220).rows.map(({ row }) => row.id),
    ).toEqual(['m3']);
    const many = layOutMatrix(matrix(2, 300), all, 1220).columns;
    expect(many.at(-1)!.fingerprint).toBe('f299');
    expect(many.length).toBeLessThan(80);
  });
});

describe('rounds together', () => {
  const row = (id: string, model: string, buildId: string | null, roundId: string | null = null) =>
    ({ id, model, roundId, waiting: buildId === null ? null : { buildId, at: 0 } }) as BenchRow;
  it('are of handsets of one model that wait for one build', () => {
    const groups = sameRounds([
      row('1', 'Petrel', 'B.2'),
      row('2', 'Petrel', 'B.2', 'r'),
      row('3', 'Petrel', 'B.3'),
      row('4', 'Slate', 'B.2'),
      row('5', 'Slate', null),
    ]);
    expect(
      groups.map((group) => [group.model, group.buildId, group.rows.map(({ id }) => id), group.open]),
    ).toEqual([['Petrel', 'B.2', ['1', '2'], 1]]);
  });
});

describe('words on the bench', () => {
  const row = (name: string, root: BenchRow['root'], urgent: boolean, waiting = false) =>
    ({
      name,
      root,
      next: { urgent },
      waiting: waiting ? { buildId: 'b', at: 0 } : null,
    }) as unknown as BenchRow;
  it('begin with who is without root', () => {
    const rows = [row('A', 'proven', false, true), row('B', 'lost', true), row('C', 'broken', true)];
    expect(benchHeadline(rows, 'Nov')).toEqual([
      'B and C are without root.',
      'A newer build is out for one of your three handsets.',
    ]);
    expect(sortedRows(rows).map((one) => one.name)).toEqual(['C', 'B', 'A']);
    expect(benchHeadline([row('A', 'proven', false)], 'Nov')[0]).toContain('newest build known');
    // one alone is called by its name
    expect(benchHeadline([row('A', 'proven', false, true)], 'Nov')).toEqual(['A newer build is out for A.']);
  });
  it('put what is out and may be taken before what has nothing to do, and before what waits', () => {
    const behind = (name: string, daysBehind: number, waits: string | null) =>
      ({
        ...row(name, 'proven', false, daysBehind > 0),
        next: { urgent: false, daysBehind },
        waits,
      }) as BenchRow;
    const rows = [behind('done', 0, null), behind('waits', 9, 'B.2 waits.'), behind('open', 2, null)];
    expect(sortedRows(rows).map((one) => one.name)).toEqual(['open', 'done', 'waits']);
  });
});

describe('words on a package', () => {
  const fit = (name: string, verdict: string) =>
    ({
      handsetId: name,
      name,
      fit: { verdict, reason: { code: 'order-unknown' }, facts: [], missing: [] },
    }) as never;
  it('speak of the handset it fits best', () => {
    expect(closestFit([fit('A', 'other handset'), fit('B', 'exact'), fit('C', 'older')])?.name).toBe('B');
    expect(closestFit([])).toBeNull();
  });
  it.each(['exact', 'newer', 'older', 'other variant', 'other handset', "can't tell"])(
    'say what follows from %s',
    (verdict) => {
      const words = verdictWords(fit('North', verdict));
      expect(words.title).toMatch(/\.$/);
      expect(words.follows.length).toBeGreaterThan(5);
      if (verdict !== 'exact' && verdict !== 'other handset' && verdict !== "can't tell")
        expect(words.follows).toContain('Nothing from it will be written');
    },
  );
});

describe('formats', () => {
  it.each([
    [0, '0 bytes'],
    [412, '412 bytes'],
    [8 * 1024 * 1024, '8 MiB'],
    [207_769_229, '198.1 MiB'],
    [1536, '1.5 KiB'],
  ])('%d bytes are %s', (bytes, text) => expect(formatBytes(bytes)).toBe(text));
  it.each([
    [0.2, 'under 1 s'],
    [44, '44 s'],
    [60, '1 min'],
    [252, '4 min 12 s'],
    [3900, '1 h 5 min'],
  ])('%d seconds are %s', (seconds, text) => expect(formatSeconds(seconds)).toBe(text));
  it('times are in UTC, ages in words', () => {
    expect(formatTime(NOW)).toBe('10 Nov 14:02');
    expect(formatDay(NOW)).toBe('10 Nov 2026');
    expect(
      [10_000, 120_000, 7_200_000, 90_000_000, 400_000_000].map((ms) => formatAge(NOW - ms, NOW)),
    ).toEqual(['just now', '2 min ago', '2 h ago', 'yesterday', '4 days ago']);
  });
  it('short forms keep the ends', () => {
    expect(shortHash('9f3c'.padEnd(60, '0') + 'a41e')).toBe('9f3c…a41e');
    expect(shortBuild('OPA2.261005.014')).toBe('…261005.014');
    expect(shortBuild('CT.6')).toBe('CT.6');
  });
});

describe('the picture of a family of images', () => {
  const sizes = { columnWidth: 26, nodeWidth: 22, rowHeight: 50 };
  const origin: FamilyNode = {
    kind: 'origin',
    id: 'package',
    origin: { kind: 'package', name: 'p.zip', verified: true, options: {}, at: 1 },
    madeFrom: null,
    children: [],
  };
  const image = (id: string, role: 'stock' | 'patched', children: FamilyNode[] = []): FamilyNode => ({
    kind: 'image',
    id,
    image: {
      sha256: id,
      partition: 'boot',
      role,
      fingerprint: null,
      patchLevel: null,
      kit: null,
      stockSha256: null,
      origins: [],
    },
    children,
  });
  const place = (id: string): FamilyNode => ({
    kind: 'place',
    id,
    place: { handset: id, slot: 'a', partition: 'boot', writtenAt: 1, readAt: null, now: true },
    children: [],
  });
  const picture = (...children: FamilyNode[]) => layOutFamily({ roots: [{ ...origin, children }] }, sizes);
  const at = ({ nodes }: ReturnType<typeof picture>, id: string) => {
    const { x, y } = nodes.find(({ node }) => node.id === id)!;
    return [x, y];
  };

  it('has a column for each stage, wherever in the tree a place hangs', () => {
    const drawn = picture(image('s', 'stock', [image('p', 'patched', [place('Ridge')]), place('Saddle')]));
    expect(['package', 's', 'p', 'Ridge', 'Saddle'].map((id) => at(drawn, id)[0])).toEqual([
      0, 26, 52, 78, 78,
    ]);
    expect(drawn.links).toHaveLength(4);
  });
  it('gives each end a row of its own and puts what it came from in the middle', () => {
    const drawn = picture(
      image('s', 'stock', [image('p', 'patched', [place('Ridge'), place('Saddle')])]),
      image('t', 'stock'),
    );
    const rows = ['Ridge', 'Saddle', 't'].map((id) => at(drawn, id)[1]!);
    expect(rows).toEqual([25, 75, 125]);
    expect(at(drawn, 'p')[1]).toBe(50);
    expect(drawn.height).toBe(150);
    for (const { from, to } of drawn.links) expect(to.x).toBeGreaterThan(from.x);
  });
  it('never lets two places share a row, however deep each hangs', () => {
    const drawn = picture(
      image('s', 'stock', [image('p', 'patched', [place('Ridge'), place('Saddle')]), place('Barn')]),
      image('t', 'stock', [place('Gate')]),
    );
    const rows = ['Ridge', 'Saddle', 'Barn', 'Gate'].map((id) => at(drawn, id)[1]!);
    expect(rows).toEqual([25, 75, 125, 175]);
  });
  it('puts a patched image whose stock image is not here among the patched', () =>
    expect(at(picture(image('p', 'patched')), 'p')[0]).toBe(52));
});

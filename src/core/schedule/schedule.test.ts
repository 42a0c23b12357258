import { DISPUTE } from '../../../tests/fixtures/dispute';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { RootState } from './continuity';
import { longestRun, minutesWithoutRoot, rootSpans, shareWithRoot } from './continuity';
import type { NextInput } from './what-comes-next';
import { whatComesNext } from './what-comes-next';
import { tries } from '../../../tests/fixtures/soak';
import type { NextSays } from '../words/schedule';

const DAY = 86_400_000;

describe('rootSpans', () => {
  const change = fc.record({
    at: fc.nat(1000),
    state: fc.constantFrom<RootState>('proven', 'stock', 'lost', 'broken'),
  });
  it('cover the time from the first change to now without a gap or an overlap', () => {
    fc.assert(
      fc.property(fc.uniqueArray(change, { selector: (c) => c.at, maxLength: 12 }), (changes) => {
        const spans = rootSpans(changes, 2000);
        if (changes.length === 0) {
          expect(spans).toEqual([]);
          return;
        }
        expect(spans[0]!.from).toBe(Math.min(...changes.map((c) => c.at)));
        expect(spans.at(-1)!.to).toBe(2000);
        spans.forEach((span, i) => i > 0 && expect(span.from).toBe(spans[i - 1]!.to));
      }),
      tries(),
    );
  });
  it('leave out what has not happened yet', () => {
    expect(
      rootSpans(
        [
          { at: 5, state: 'stock' },
          { at: 50, state: 'proven' },
        ],
        20,
      ),
    ).toEqual([{ from: 5, to: 20, state: 'stock' }]);
  });
  it('tell the longest run, proved or not, and the minutes root was missed', () => {
    const spans = rootSpans(
      [
        { at: 0, state: 'stock' },
        { at: 60_000, state: 'proven' },
        { at: 120_000, state: 'unproven' },
        { at: 300_000, state: 'lost' },
        { at: 360_000, state: 'broken' },
        { at: 420_000, state: 'proven' },
      ],
      480_000,
    );
    expect(longestRun(spans)).toBe(240_000);
    expect(minutesWithoutRoot(spans, 0, 480_000)).toBe(2);
    expect(minutesWithoutRoot(spans, 330_000, 390_000)).toBe(1);
    expect(longestRun([])).toBe(0);
  });
  it('tell the share of days with root', () => {
    expect(shareWithRoot([])).toBeNull();
    expect(
      shareWithRoot(
        rootSpans(
          [
            { at: 0, state: 'stock' },
            { at: 25, state: 'proven' },
            { at: 75, state: 'lost' },
          ],
          100,
        ),
      ),
    ).toBe(0.5);
  });
});

describe('whatComesNext', () => {
  const WAITS = { build: 'B.2', reasons: [{ code: 'days', days: 2 }] } as const;
  const ENDED = { what: 'unlock switch', note: '' };
  const base: NextInput = {
    root: 'proven',
    openRound: null,
    installedBuild: 'B.1',
    newest: { buildId: 'B.1', publishedAt: 0 },
    unlocked: true,
    rootPartition: 'init_boot',
    contradiction: null,
    waits: null,
    ended: [],
    now: 10 * DAY,
  };
  it.each<[string, Partial<NextInput>, string, boolean, NextSays]>([
    ['all is well', {}, 'handset', false, { code: 'all-done' }],
    [
      'a newer build is out',
      { newest: { buildId: 'B.2', publishedAt: 4 * DAY } },
      'ways',
      false,
      { code: 'update-out', build: 'B.2' },
    ],
    [
      'its newest build waits',
      { newest: { buildId: 'B.2', publishedAt: 4 * DAY }, waits: WAITS },
      'calendar',
      false,
      { code: 'update-waits', waiting: WAITS },
    ],
    ['a wait is over', { ended: [ENDED] }, 'calendar', true, { code: 'wait-over', ended: [ENDED] }],
    [
      'root was lost',
      { root: 'lost' },
      'start-round',
      true,
      { code: 'root-lost', partition: 'init_boot', build: 'B.1' },
    ],
    ['it does not start', { root: 'broken' }, 'start-round', true, { code: 'broken' }],
    ['root is only said', { root: 'unproven' }, 'start-round', true, { code: 'root-claimed' }],
    [
      'it was never rooted',
      { root: 'stock' },
      'start-round',
      false,
      { code: 'not-rooted', partition: 'init_boot', build: 'B.1' },
    ],
    [
      'nobody knows',
      { root: 'unknown' },
      'start-round',
      false,
      { code: 'root-unknown', partition: 'init_boot', build: 'B.1' },
    ],
    [
      'two sources contradict each other',
      { contradiction: DISPUTE, unlocked: false },
      'contradiction',
      true,
      { code: 'contradiction', contradiction: DISPUTE },
    ],
    ['it is locked', { root: 'stock', unlocked: false }, 'before-wipe', false, { code: 'locked' }],
    ['its build is not known', { installedBuild: null }, 'handset', true, { code: 'build-unknown' }],
    [
      'a round is open',
      { root: 'lost', openRound: { title: 'Root again', step: 'write it' } },
      'round',
      true,
      { code: 'round-open', round: 'Root again', step: 'write it' },
    ],
  ])('when %s', (_what, change, goes, urgent, says) => {
    const next = whatComesNext({ ...base, ...change });
    expect(next).toMatchObject({ goes, urgent, says });
  });
  it('says what waits meanwhile, where it is about something else', () => {
    const waiting = { newest: { buildId: 'B.2', publishedAt: 4 * DAY }, waits: WAITS };
    expect(whatComesNext({ ...base, ...waiting }).meanwhile).toBeNull();
    expect(whatComesNext({ ...base, ...waiting, contradiction: DISPUTE }).meanwhile).toBe(waiting.waits);
    expect(whatComesNext({ ...base, waits: waiting.waits, root: 'lost' }).meanwhile).toBeNull();
    expect(
      whatComesNext({ ...base, ...waiting, openRound: { title: 'Monthly update', step: 'write it' } })
        .meanwhile,
    ).toBeNull();
  });
  it('counts the days behind', () => {
    expect(whatComesNext({ ...base, newest: { buildId: 'B.2', publishedAt: 4 * DAY } }).daysBehind).toBe(6);
    expect(whatComesNext(base).daysBehind).toBe(0);
  });
});

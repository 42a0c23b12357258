import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cadenceOf } from './cadence';
import { monthStart, monthText, nextMonth, parseMonth, weeksOf } from './month';
import type { WaitingInput } from './waiting-rule';
import { NO_WAITING, waitingOf } from './waiting-rule';
import { tries } from '../../../tests/fixtures/soak';

const DAY = 86_400_000;

describe('the cadence of a handset', () => {
  it('expects the next a middle gap after the last, within its spread', () => {
    const { days, between, next } = cadenceOf(
      [0, 30, 60, 95].map((day) => day * DAY),
      [3, 9, 5],
      100 * DAY,
    );
    expect(days).toBe(30);
    expect(between![0]).toBeCloseTo(30, 0);
    expect(next!.at).toBe(125 * DAY);
    expect(next!.to).toBeGreaterThan(next!.at);
    expect(cadenceOf([0, 30 * DAY], [3, 9, 5], 40 * DAY).followDays).toBe(5);
  });
  it('says nothing of one build, a guess of two, and any day of what is overdue', () => {
    expect(cadenceOf([0], [], DAY)).toEqual({ days: null, between: null, next: null, followDays: null });
    expect(cadenceOf([0, 40 * DAY], [], 41 * DAY).between).toEqual([30, 50]);
    const late = cadenceOf([0, 30 * DAY], [], 90 * DAY).next!;
    expect(late.at).toBe(90 * DAY);
    expect(late.from).toBe(90 * DAY);
  });
  it('never expects one in the past, whatever was out when', () =>
    fc.assert(
      fc.property(fc.array(fc.nat(3000), { maxLength: 30 }), fc.nat(3000), (days, today) => {
        const { next } = cadenceOf(
          days.map((day) => day * DAY),
          [],
          today * DAY,
        );
        if (!next) return;
        expect(next.at).toBeGreaterThanOrEqual(today * DAY);
        expect(next.from).toBeLessThanOrEqual(next.to);
        expect(next.at).toBeLessThanOrEqual(next.to);
      }),
      tries(),
    ));
});

const input = (change: Partial<WaitingInput> = {}): WaitingInput => ({
  buildId: 'B.2',
  publishedAt: 0,
  kitKnown: false,
  modulesKnown: 1,
  modules: 4,
  quiet: [],
  now: 5 * DAY,
  ...change,
});

describe('the waiting rule', () => {
  it('of nothing is over at once', () => expect(waitingOf(NO_WAITING, input()).over).toBe(true));
  it.each([
    ['days', { ...NO_WAITING, days: 7 }, {}, 7 * DAY, { code: 'days', days: 2 }],
    ['the kit', { ...NO_WAITING, kit: true }, {}, null, { code: 'kit' }],
    ['modules', { ...NO_WAITING, modules: 3 }, {}, null, { code: 'modules', wanted: 3, known: 1 }],
    [
      'a quiet window',
      NO_WAITING,
      { quiet: [{ from: 4 * DAY, to: 8 * DAY, what: 'the survey' }] },
      8 * DAY,
      { code: 'quiet', what: 'the survey' },
    ],
  ] as const)('holds for %s', (_what, rule, change, until, reason) => {
    const wait = waitingOf(rule, input(change));
    expect(wait).toMatchObject({ over: false, until, says: { reasons: [reason] } });
  });
  it('asks for no more modules than there are', () =>
    expect(waitingOf({ ...NO_WAITING, modules: 9 }, input({ modules: 1 })).over).toBe(true));
});

describe('a month', () => {
  it('is whole weeks from Monday that hold every one of its days once', () =>
    fc.assert(
      fc.property(fc.nat(4000), (day) => {
        const month = monthStart(day * DAY);
        const days = weeksOf(month).flat();
        expect(days.length % 7).toBe(0);
        expect(new Date(days[0]!.at).getUTCDay()).toBe(1);
        const inside = days.filter((one) => one.inside);
        expect(inside.map((one) => one.day)).toEqual(inside.map((_one, i) => i + 1));
        expect(inside.length).toBe((nextMonth(month, 1) - month) / DAY);
        expect(parseMonth(monthText(month))).toBe(month);
      }),
      tries(),
    ));
  it('is read from text or not at all', () => {
    expect(parseMonth('2026-13')).toBeNull();
    expect(parseMonth(undefined)).toBeNull();
    expect(parseMonth('2026-02')).toBe(Date.UTC(2026, 1, 1));
  });
});

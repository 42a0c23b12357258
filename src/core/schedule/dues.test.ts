import { describe, expect, it } from 'vitest';
import type { DueInput } from './dues';
import { duesOf } from './dues';
import { dueWords } from '../words/schedule';

const NOW = 1_000_000;
const WAITS = { buildId: 'HC2', over: false, until: null, says: { build: 'HC2', reasons: [] } };
const handset = (change: Partial<DueInput>): DueInput => ({
  id: 'r',
  name: 'Ridge',
  clocks: [],
  rule: { days: 7, kit: false, modules: 0 },
  wait: null,
  putBacks: [],
  inRound: false,
  ...change,
});
const said = (change: Partial<DueInput>) =>
  duesOf([handset(change)], NOW).dues.map(({ name, says }) => `${name}: ${dueWords(says)}`);

describe('what is due', () => {
  it.each<[string, Partial<DueInput>, readonly string[]]>([
    ['nothing', {}, []],
    [
      'a clock that ended',
      { clocks: [{ id: '1', what: 'unlock switch', endsAt: NOW }] },
      ['Ridge: the unlock switch is over'],
    ],
    ['not one that runs', { clocks: [{ id: '1', what: 'unlock switch', endsAt: NOW + 1 }] }, []],
    ['a build that has waited', { wait: { ...WAITS, over: true } }, ['Ridge: HC2 has waited long enough']],
    [
      'not one that never had to',
      { wait: { ...WAITS, over: true }, rule: { days: 0, kit: false, modules: 0 } },
      [],
    ],
    ['not one that waits', { wait: WAITS }, []],
    [
      'what is not put back',
      { putBacks: [{ id: '1', what: 'debugging' }] },
      ['Ridge: not put back yet: debugging'],
    ],
    ['not in its own round', { putBacks: [{ id: '1', what: 'debugging' }], inRound: true }, []],
  ])('%s', (_name, change, expected) => expect(said(change)).toEqual(expected));

  it('ends next with the first wait that a clock ends, of any handset', () => {
    const clocks = [NOW + 50, NOW - 5].map((endsAt, i) => ({ id: String(i), what: 'code', endsAt }));
    expect(
      duesOf([handset({ clocks }), handset({ id: 'b', wait: { ...WAITS, until: NOW + 20 } })], NOW).nextAt,
    ).toBe(NOW + 20);
    expect(duesOf([handset({ wait: WAITS })], NOW).nextAt).toBeNull();
  });

  it('keeps its key as long as it is due, and another build has another', () => {
    const key = (buildId: string, now: number) =>
      duesOf([handset({ wait: { ...WAITS, over: true, buildId } })], now).dues[0]!.key;
    expect(key('HC2', NOW)).toBe(key('HC2', NOW + 9));
    expect(key('HC3', NOW)).not.toBe(key('HC2', NOW));
  });
});

import { describe, expect, it } from 'vitest';
import { compareVersions } from './versions';

describe('two versions', () => {
  it.each<[string, string, -1 | 0 | 1 | null]>([
    ['tb-1.4-12', 'tb-1.4-12', 0],
    ['tb-1.4-9', 'tb-1.4-12', -1],
    ['tb-1.10-1', 'tb-1.9-99', 1],
    ['tb-1.4', 'tb-1.4-1', -1],
    ['TB-1.4', 'tb_1.4', 0],
    ['tb-1.4-12', 'tc-1.4-12', null],
    ['tb-1.4-12', 'tb-1.4-x', null],
    ['1.4', 'tb-1.4', null],
    ['99999999999999999999', '99999999999999999998', 1],
    ['007', '7', 0],
    ['', '1', null],
    ['-', '-', null],
  ])('%s and %s', (a, b, order) => {
    const sign = (value: number | null) => (value === null ? null : Math.sign(value) + 0);
    expect(sign(compareVersions(a, b))).toBe(order);
    expect(sign(compareVersions(b, a))).toBe(order === null || order === 0 ? order : -order);
  });
});

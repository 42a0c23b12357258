import { describe, expect, it } from 'vitest';
import type { ObserveExpectation } from './expectation';
import { observe } from './hold';

/* A whole build that is written by hand, as its tool prints it: every image is looked for. */

const KIB = 1024;
const parts = (
  slots: readonly ('a' | 'b' | null)[],
  sizes: Readonly<Record<string, number | null>> = { boot: 100 * KIB, system: 3000 * KIB, dtbo: null },
): NonNullable<ObserveExpectation['parts']> =>
  Object.entries(sizes).map(([partition, size]) => ({ partition, slots, size }));
const seen = (wanted: NonNullable<ObserveExpectation['parts']>, ...lines: string[]) => {
  const { verdict, written, differs, missing } = observe({ step: 'write', parts: wanted }, lines.join('\n'));
  return {
    verdict,
    written: written!.map(({ partition, slot }) => (slot === null ? partition : `${partition}_${slot}`)),
    differs: differs.map(({ what }) => what),
    missing,
  };
};
const sent = (name: string, kib: number) => `Sending '${name}' (${kib} KB)  OKAY [ 0.1s]`;
const wrote = (name: string) => `Writing '${name}'  OKAY [ 0.2s]`;
const ALL = (end = '_a') => [
  sent(`boot${end}`, 100),
  wrote(`boot${end}`),
  `Sending sparse 'system${end}' 1/2 (2000 KB)  OKAY [ 0.1s]`,
  wrote(`system${end}`),
  `Sending sparse 'system${end}' 2/2 (1000 KB)  OKAY [ 0.1s]`,
  wrote(`system${end}`),
  sent(`dtbo${end}`, 8),
  wrote(`dtbo${end}`),
];

describe('the images of a whole build', () => {
  it('are all there, or it is not enough', () => {
    expect(seen(parts(['a']), ...ALL())).toMatchObject({
      verdict: 'met',
      written: ['boot_a', 'system_a', 'dtbo_a'],
      missing: [],
    });
    expect(seen(parts(['a']), ...ALL().slice(0, 6))).toMatchObject({
      verdict: 'not-enough',
      written: ['boot_a', 'system_a'],
      missing: ['transfer'],
    });
    expect(seen(parts(['a']))).toMatchObject({ verdict: 'not-enough', written: [] });
  });
  it('an image that went in parts is there with its last part', () => {
    expect(seen(parts(['a']), ...ALL().slice(0, 4)).written).toEqual(['boot_a']);
    expect(seen(parts(['a']), ...ALL().slice(0, 5)).written).toEqual(['boot_a']);
    expect(seen(parts(['a']), ...ALL().slice(0, 6)).written).toEqual(['boot_a', 'system_a']);
  });
  it('go to every slot of the step, and to no other', () => {
    expect(seen(parts(['a', 'b']), ...ALL()).verdict).toBe('not-enough');
    expect(seen(parts(['a', 'b']), ...ALL(), ...ALL('_b')).verdict).toBe('met');
    expect(seen(parts(['a']), ...ALL('_b'))).toMatchObject({ verdict: 'otherwise', written: [] });
    // a name without a slot is the one slot there is, and neither of two
    expect(seen(parts(['a']), ...ALL('')).verdict).toBe('met');
    expect(seen(parts([null]), ...ALL('')).verdict).toBe('met');
    expect(seen(parts(['a', 'b']), ...ALL('')).verdict).toBe('otherwise');
  });
  it.each([
    ['another partition', [...ALL(), sent('persist_a', 4), wrote('persist_a')], 'partition'],
    ['another size', [sent('boot_a', 99), wrote('boot_a')], 'size'],
    ['another slot', [wrote('boot_b')], 'slot'],
  ])('%s is otherwise', (_, lines, what) => {
    expect(seen(parts(['a']), ...lines)).toMatchObject({ verdict: 'otherwise', differs: [what] });
  });
  it('what failed is not written, nor what was only sent', () => {
    expect(seen(parts(['a']), sent('boot_a', 100), "Writing 'boot_a'  FAILED (remote: 'no')")).toMatchObject({
      verdict: 'otherwise',
      written: [],
    });
    expect(seen(parts(['a']), sent('boot_a', 100)).written).toEqual([]);
    // the size of one image says nothing of the next
    expect(seen(parts(['a']), sent('boot_a', 100), wrote('boot_a'), wrote('system_a')).written).toEqual([
      'boot_a',
      'system_a',
    ]);
  });
});

describe('one image that went in parts', () => {
  it('is written with its last part only', () => {
    const one: ObserveExpectation = { step: 'write', partition: 'system', slot: 'a' };
    const lines = ALL().slice(2, 6);
    expect(observe(one, lines.slice(0, 2).join('\n')).verdict).toBe('not-enough');
    expect(observe(one, lines.slice(0, 3).join('\n')).verdict).toBe('not-enough');
    expect(observe(one, lines.join('\n')).verdict).toBe('met');
  });
});

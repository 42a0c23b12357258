import { describe, expect, it } from 'vitest';
import type { Limits } from '@/core/planning/context';
import { newRoundSchema } from './inputs';
import { readWish, waysQuery } from './ways-query';

const HANDSET = '0b5a3d52-6f0e-4c52-9b57-1f6d2f1a0001';
const NOTHING: Limits = {
  computer: false,
  wipeAllowed: false,
  keepFuse: false,
  secondHandset: false,
  oneSlot: false,
  imageBackup: false,
  patchThere: false,
  patchedElsewhere: false,
  seenFirst: false,
  modules: 'none',
  modulesLimit: 0.02,
};
const there = async (limits: Limits) => {
  const { handset, ...query } = await newRoundSchema.validate(
    waysQuery(HANDSET, 'downgrade', limits, 'a/b/c'),
  );
  expect(handset).toBe(HANDSET);
  return readWish(query);
};

describe('a wish in an address', () => {
  it.each([
    'computer',
    'wipeAllowed',
    'keepFuse',
    'secondHandset',
    'oneSlot',
    'imageBackup',
    'patchThere',
    'patchedElsewhere',
    'seenFirst',
  ] as const)('comes back as it went, with %s and without', async (key) => {
    expect(await there(NOTHING)).toEqual({ goal: 'downgrade', target: 'a/b/c', limits: NOTHING });
    expect((await there({ ...NOTHING, [key]: true })).limits).toEqual({ ...NOTHING, [key]: true });
  });
  it('is the likeliest one, at a computer, with nothing allowed, where it says nothing or what nobody knows', () => {
    const usual = { ...NOTHING, computer: true, modules: 'by chance' } as Limits;
    const { modulesLimit: _limit, ...limits } = usual;
    expect(readWish({})).toEqual({ goal: null, target: null, limits });
    expect(readWish({ goal: 'toString', wipe: 'perhaps', modules: 'some', computer: 'maybe' })).toEqual({
      goal: null,
      target: null,
      limits,
    });
  });
});

import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import type { UnboundWrite } from './unbound-write';
import { unboundWriteChecks } from './unbound-write';

/* A write from the command line: what is known and fits, what is known and does not, and what is not known. */

const GOOD: UnboundWrite = {
  image: { partition: 'init_boot', fingerprint: FINGERPRINT },
  partition: 'init_boot',
  handset: { device: 'hill', fingerprint: FINGERPRINT, unlocked: true, batteryOk: true },
  serialSame: true,
  proof: { holds: true, why: 'It is its stock image.' },
};
const handset = (change: Partial<UnboundWrite['handset']>): Partial<UnboundWrite> => ({
  handset: { ...GOOD.handset, ...change },
});
const image = (change: Partial<UnboundWrite['image']>): Partial<UnboundWrite> => ({
  image: { ...GOOD.image, ...change },
});
/** The checks that do not hold, with what they say and whether a reason goes past them. */
const odd = (change: Partial<UnboundWrite>) =>
  unboundWriteChecks({ ...GOOD, ...change })
    .filter(({ verdict }) => verdict !== 'holds')
    .map(({ id, verdict, overridable }) => [id, verdict, overridable]);

describe('a write outside any round', () => {
  it('holds where all is known and fits', () => expect(odd({})).toEqual([]));
  it.each<[string, Partial<UnboundWrite>, readonly (readonly [string, string, boolean])[]]>([
    ['another partition', { partition: 'boot' }, [['partition', 'fails', false]]],
    ['started from memory', { partition: null }, [['partition', 'fails', false]]],
    ['another serial', { serialSame: false }, [['serial', 'fails', false]]],
    ['no serial', { serialSame: null }, [['serial', 'unknown', true]]],
    ['another handset', handset({ device: 'dale' }), [['handset', 'fails', false]]],
    ['a handset that says no name', handset({ device: null }), [['handset', 'unknown', true]]],
    [
      'an image that names no build',
      image({ fingerprint: null }),
      [
        ['handset', 'unknown', true],
        ['build', 'unknown', true],
      ],
    ],
    ['a build that is not known', handset({ fingerprint: null }), [['build', 'unknown', true]]],
    ['another build', handset({ fingerprint: `${FINGERPRINT}x` }), [['build', 'fails', false]]],
    ['no proof', { proof: { holds: null, why: '' } }, [['proof', 'unknown', true]]],
    ['a proof against it', { proof: { holds: false, why: '' } }, [['proof', 'fails', false]]],
    ['locked', handset({ unlocked: false }), [['unlocked', 'fails', false]]],
    ['a lock that was not read', handset({ unlocked: null }), [['unlocked', 'unknown', true]]],
    ['an empty battery', handset({ batteryOk: false }), [['battery', 'fails', false]]],
    ['a battery that was not read', handset({ batteryOk: null }), [['battery', 'unknown', true]]],
  ])('%s', (_what, change, expected) => expect(odd(change)).toEqual(expected));
  it('says what it saw, in three ways where there are three', () => {
    const said = (id: string, change: Partial<UnboundWrite>) =>
      unboundWriteChecks({ ...GOOD, ...change }).find((check) => check.id === id)!.evidence;
    for (const [id, key] of [
      ['unlocked', 'unlocked'],
      ['battery', 'batteryOk'],
    ] as const)
      expect(new Set([true, false, null].map((value) => said(id, handset({ [key]: value })))).size).toBe(3);
    expect(new Set([true, false, null].map((serialSame) => said('serial', { serialSame }))).size).toBe(3);
  });
});

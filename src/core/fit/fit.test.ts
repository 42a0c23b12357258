import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { BuildClaim, FitVerdict, InstalledBuild } from './fit-package';
import { alignStrings } from '../text/align-strings';
import { fitWords } from '../words/fit';
import { fitPackage, isForeign } from './fit-package';
import { rootPartitionOf } from './root-partition';
import { tries } from '../../../tests/fixtures/soak';
import { rootWords } from '../words/root';

const INSTALLED: InstalledBuild = {
  fingerprint: 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys',
  device: 'hill',
  patchLevel: '2026-09-05',
};
const claim = (change: Partial<BuildClaim> & { fp?: [RegExp, string] } = {}): BuildClaim => ({
  fingerprint: change.fp ? INSTALLED.fingerprint!.replace(...change.fp) : INSTALLED.fingerprint,
  incrementalVersion: '9001',
  patchLevel: '2026-09-05',
  devices: ['hill'],
  ...Object.fromEntries(Object.entries(change).filter(([key]) => key !== 'fp')),
});

describe('fitPackage', () => {
  it.each<[string, BuildClaim, FitVerdict]>([
    ['the same fingerprint', claim(), 'exact'],
    ['one character more at the end', claim({ fp: [/$/, 'x'] }), 'older'],
    ['another variant', claim({ fp: [/hill_eu/, 'hill_am'] }), 'other variant'],
    ['another brand', claim({ fp: [/^club/, 'clvb'] }), 'other variant'],
    ['another code name', claim({ fp: [/\/hill:/, '/dale:'], devices: ['dale'] }), 'other handset'],
    ['a list of devices with ours in it', claim({ devices: ['dale', 'hill'] }), 'exact'],
    ['a later date in the build id', claim({ fp: [/260905\.007/, '261005.001'] }), 'newer'],
    ['an earlier date in the build id', claim({ fp: [/260905\.007/, '260805.012'] }), 'older'],
    [
      'the same date, a later patch level',
      claim({ fp: [/007\/9001/, '008/9002'], patchLevel: '2026-10-01' }),
      'newer',
    ],
    ['the same month, a higher incremental', claim({ fp: [/007\/9001/, '008/9002'] }), 'newer'],
    ['the same month, a lower incremental', claim({ fp: [/007\/9001/, '006/9000'] }), 'older'],
    ['no fingerprint', claim({ fingerprint: null }), "can't tell"],
    ['a fingerprint that is none', claim({ fingerprint: 'HC1.260905.007' }), "can't tell"],
    [
      'an agreeing ending only',
      claim({ fingerprint: '7/9001:user/release-keys', devices: [] }),
      "can't tell",
    ],
  ])('with %s', (_what, package_, verdict) => {
    const { incrementalVersion, ...rest } = package_;
    const result = fitPackage({ ...rest, incrementalVersion }, INSTALLED);
    // an odd tag alone says nothing of the order of two builds
    expect(
      _what.startsWith('one character') ? result.verdict !== 'exact' : result.verdict === verdict,
      `${result.verdict}: ${result.reason.code}`,
    ).toBe(true);
    expect(fitWords(result.reason).length).toBeGreaterThan(10);
  });

  it('tells what is missing when the handset says nothing', () => {
    const { verdict, missing } = fitPackage(claim(), { fingerprint: null, device: null, patchLevel: null });
    expect(verdict).toBe("can't tell");
    expect(missing).toContain('fingerprint of the handset');
  });

  it('shows every fact with both sides, and months in words', () => {
    const { facts } = fitPackage(
      claim({ fp: [/260905\.007/, '261105.001'], patchLevel: '2026-11-05' }),
      INSTALLED,
    );
    expect(facts.filter((fact) => fact.verdict !== 'not needed').map((fact) => fact.fact)).toEqual([
      'Fingerprint',
      'Code name',
      'Variant',
      'Build number',
      'Incremental',
      'Patch level',
    ]);
    expect(facts.find((fact) => fact.fact === 'Patch level')).toMatchObject({
      verdict: 'differs',
      note: '2 months newer',
      package: '2026-11-05',
      handset: '2026-09-05',
    });
    expect(facts[1]).toMatchObject({ verdict: 'same' });
  });

  it('never calls anything exact but the whole string', () => {
    const at = fc.nat(INSTALLED.fingerprint!.length - 1);
    fc.assert(
      fc.property(at, fc.constantFrom('x', '0', '', 'O', 'l'), (i, other) => {
        const fingerprint = INSTALLED.fingerprint!.slice(0, i) + other + INSTALLED.fingerprint!.slice(i + 1);
        if (fingerprint !== INSTALLED.fingerprint)
          expect(fitPackage(claim({ fingerprint }), INSTALLED).verdict).not.toBe('exact');
      }),
      tries(),
    );
  });

  it('keeps foreign files apart', () => {
    expect((['other variant', 'other handset'] as const).every(isForeign)).toBe(true);
    expect((['exact', 'newer', 'older', "can't tell"] as const).some(isForeign)).toBe(false);
  });
});

describe('alignStrings', () => {
  const text = fc.stringMatching(/^[abO01l._]{0,24}$/);
  it('loses no character of either side', () => {
    fc.assert(
      fc.property(text, text, (a, b) => {
        const runs = alignStrings(a, b);
        expect(runs.map((run) => run.a).join('')).toBe(a);
        expect(runs.map((run) => run.b).join('')).toBe(b);
        for (const run of runs) expect(run.same ? run.a === run.b && run.a !== '' : true).toBe(true);
      }),
      tries(),
    );
  });
  it.each([
    ['OPA2.261105', 'OPA2.261105', [[true, 'OPA2.261105', 'OPA2.261105']]],
    [
      'OPA2',
      '0PA2',
      [
        [false, 'O', '0'],
        [true, 'PA2', 'PA2'],
      ],
    ],
    [
      '2611O5',
      '26115',
      [
        [true, '2611', '2611'],
        [false, 'O', ''],
        [true, '5', '5'],
      ],
    ],
    [
      '_am/',
      '_eu/',
      [
        [true, '_', '_'],
        [false, 'am', 'eu'],
        [true, '/', '/'],
      ],
    ],
  ] as const)('of %s and %s', (a, b, runs) =>
    expect(alignStrings(a, b).map((run) => [run.same, run.a, run.b])).toEqual(runs),
  );
});

describe('rootPartitionOf', () => {
  it.each([
    [['boot', 'init_boot'], 30, 'init_boot', true],
    [['boot'], 35, 'boot', true],
    [['boot'], 30, 'boot', true],
    [[], 33, 'init_boot', false],
    [[], 32, 'boot', false],
    [[], null, null, false],
  ])('for %j launched with %s', (partitions, firstApiLevel, partition, sure) => {
    const result = rootPartitionOf({ partitions, firstApiLevel });
    expect(result).toMatchObject({ partition, sure });
    expect(rootWords(result.because)).toMatch(/\.$/);
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { commonEnding, differenceInWords, explainDifference } from '../text/align-strings';
import type { BuildClaim, FitVerdict, InstalledBuild } from './fit-package';
import { fitPackage } from './fit-package';
import { judgeRegion, ownRegion, regionsOfLabel } from './label-exceptions';
import { recoveryHomeOf, rootPartitionOf } from './root-partition';
import { writeSlotsOf } from './write-slots';
import { tries } from '../../../tests/fixtures/soak';
import { rootWords } from '../words/root';

describe('explainDifference', () => {
  it.each([
    ['OPA2.261105.009', 'OPA2.26110.009', ['dropped:5']],
    ['OPA2.261105.009', 'OPA2.2611055.009', ['added:5']],
    ['OPA2.261105.009', 'OPA2.261150.009', ['swapped:50']],
    ['OPA2.261105.009', '0PA2.261105.009', ['look-alike:0']],
    ['OPA2.261105.009', 'OPA2.26l105.009', ['look-alike:l']],
    ['OPA2.261105.009', 'opa2.261105.009', ['case:o', 'case:p', 'case:a']],
    ['HC1.260905.007', 'HС1.260905.007', ['look-alike:С']],
    ['A-1', 'A–1', ['look-alike:–']],
    ['MS8', 'MSB', ['look-alike:B']],
    ['abc', 'xbc', ['replaced:x']],
    ['same', 'same', []],
    ['', 'a', ['added:a']],
    ['a', '', ['dropped:']],
  ])('of %s and %s', (wanted, got, expected) => {
    const said = explainDifference(wanted, got)!.map(
      (one) => `${one.kind}:${one.kind === 'dropped' ? one.wanted : one.got}`,
    );
    expect(said).toEqual(expected.map((one) => (one === 'dropped:' ? `dropped:${wanted}` : one)));
  });

  it('can always be played back', () => {
    const text = fc.stringMatching(/^[aA01lO_.]{0,16}$/);
    fc.assert(
      fc.property(text, text, (wanted, got) => {
        let built = '';
        let at = 0;
        for (const one of explainDifference(wanted, got)!) {
          built += wanted.slice(at, one.at) + one.got;
          at = one.at + one.wanted.length;
        }
        expect(built + wanted.slice(at)).toBe(got);
      }),
      tries(),
    );
  });
  it('gives up on strings that are no build strings', () =>
    expect(explainDifference('a'.repeat(600), 'b')).toBeNull());

  it.each([
    ['OPA2.261105.009', '0PA2.261105.009', '“O” and “0” look alike at character 1'],
    ['OPA2.261105.009', 'OPA2.261150.009', '“05” became “50” at character 10'],
    ['OPA2.261105.009', 'OPA2.261005.009', null],
    ['abcdefgh.009', 'zyxwvuts.009', 'only the last 4 characters agree, and an ending is no match'],
    ['abcdefgh', 'zyxwvuts', null],
    ['same', 'same', null],
  ])('%s and %s in words', (wanted, got, words) => expect(differenceInWords(wanted, got)).toBe(words));
  it('counts a common ending', () =>
    expect([commonEnding('abc', 'xbc'), commonEnding('abc', 'abc'), commonEnding('', 'a')]).toEqual([
      2, 3, 0,
    ]));
});

describe('regions in labels', () => {
  it.each([
    ['petrel2 (all but US and CA)', [], ['us', 'ca']],
    ['petrel2_all_except_jp.zip', [], ['jp']],
    ['update, not for kr/jp', [], ['kr', 'jp']],
    ['EU only', ['eu'], []],
    ['only for eu, uk', ['eu', 'uk'], []],
    ['excluding carrier-x', [], ['carrier-x']],
    ['17 (A1, Fernwave only) Link', ['fernwave'], []],
    ['17 [not for jp] and more', [], ['jp']],
    ['petrel2_eu-OPA2.261105.009-update.zip', [], []],
    ['', [], []],
  ])('%j', (label, only, except) => expect(regionsOfLabel(label)).toEqual({ only, except }));

  it.each([
    ['all but us', 'eu', 'let in'],
    ['all but us', 'US', 'shut out'],
    ['eu only', 'us', 'shut out'],
    ['eu only', 'eu', 'let in'],
    ['eu only', null, 'region not known'],
    ['plain', 'eu', 'not said'],
    // a carrier's name
    ['excluding Orchard Mobile', 'Orchard Mobile', 'shut out'],
    ['excluding Orchard Mobile', 'Fernwave', 'let in'],
    ['Fernwave only', 'Fernwave', 'let in'],
    ['Fernwave only', 'eu', 'shut out'],
  ])('%s for %s as it was typed: %s', (label, region, verdict) =>
    expect(judgeRegion(regionsOfLabel(label), ownRegion(region, null))).toBe(verdict),
  );
  it.each([
    ['excluding Orchard Mobile', 'petrel2_eu', 'region not known'],
    ['Fernwave only', 'petrel2_eu', 'region not known'],
    ['all but eu', 'petrel2_eu', 'shut out'],
    ['all but us', 'petrel2_eu', 'let in'],
    ['all but eu and orchard', 'petrel2_eu', 'shut out'],
    ['eu only, not for orchard', 'petrel2_eu', 'region not known'],
    ['us only', 'petrel2_eu', 'shut out'],
    ['us only', 'slate8', 'region not known'],
  ])('%s for %s, whose carrier nobody typed: %s', (label, product, verdict) =>
    expect(judgeRegion(regionsOfLabel(label), ownRegion(null, product))).toBe(verdict),
  );
  it('takes a region from a product’s ending', () => {
    expect(['petrel2_eu', 'hill-am', 'slate8', null].map((one) => ownRegion(null, one).value)).toEqual([
      'eu',
      'am',
      null,
      null,
    ]);
  });
  it('never fails on any label', () =>
    fc.assert(
      fc.property(fc.string({ maxLength: 200 }), (label) => void regionsOfLabel(label)),
      tries(),
    ));
});

const INSTALLED: InstalledBuild = {
  fingerprint: 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys',
  device: 'hill',
  patchLevel: '2026-09-05',
  bootloader: 'h-2.1',
  baseband: 'r-3',
  firstApiLevel: 34,
  sources: { fingerprint: 'the running system, pasted' },
};
const CLAIM: BuildClaim = {
  fingerprint: INSTALLED.fingerprint,
  incrementalVersion: '9001',
  patchLevel: '2026-09-05',
  devices: ['hill'],
};

describe('fit, fact by fact', () => {
  const factOf = (claim: Partial<BuildClaim>, fact: string) =>
    fitPackage({ ...CLAIM, ...claim }, INSTALLED).facts.find((one) => one.fact === fact)!;
  it.each<[string, Partial<BuildClaim>, string, string]>([
    ['the bootloader it asks for is there', { requiredBootloader: ['h-2.0', 'h-2.1'] }, 'Bootloader', 'same'],
    ['another bootloader is asked for', { requiredBootloader: ['h-2.2'] }, 'Bootloader', 'differs'],
    ['no bootloader is asked for', {}, 'Bootloader', 'not needed'],
    ['another radio is asked for', { requiredBaseband: ['r-4'] }, 'Radio', 'differs'],
    ['it holds init_boot', { partitions: ['init_boot', 'boot'] }, 'Launch class', 'same'],
    ['it leaves init_boot out', { partitions: ['boot'] }, 'Launch class', 'not needed'],
    [
      'it starts from the installed build',
      { sourceFingerprint: INSTALLED.fingerprint },
      'Starts from build',
      'same',
    ],
    [
      'it starts from another build',
      { sourceFingerprint: INSTALLED.fingerprint!.replace('007', '006') },
      'Starts from build',
      'differs',
    ],
    ['its label lets it in', { label: 'all but us' }, 'Region', 'same'],
  ])('%s', (_what, claim, fact, verdict) => expect(factOf(claim, fact).verdict).toBe(verdict));

  it.each<[string, Partial<BuildClaim>, FitVerdict]>([
    ['a label that shuts it out', { label: 'us only' }, 'other variant'],
    [
      'a letter for a digit in the build number',
      { fingerprint: INSTALLED.fingerprint!.replace('260905', '26O905'), incrementalVersion: '9001' },
      "can't tell",
    ],
    ['a required bootloader does not make another build of it', { requiredBootloader: ['h-9'] }, 'exact'],
  ])('%s', (_what, claim, verdict) =>
    expect(fitPackage({ ...CLAIM, ...claim }, INSTALLED).verdict).toBe(verdict),
  );

  it('names both sources', () => {
    expect(factOf({ from: 'its metadata' }, 'Fingerprint')).toMatchObject({
      packageFrom: 'its metadata',
      handsetFrom: 'the running system, pasted',
    });
    expect(factOf({ fingerprint: null }, 'Fingerprint')).toMatchObject({
      packageFrom: null,
      verdict: 'unknown',
    });
  });
});

describe('where root sits', () => {
  const at = (partition: string, hasRamdisk: boolean | null) => ({ partition, hasRamdisk });
  it.each([
    ['an image of init_boot with a ramdisk', { images: [at('init_boot', true)] }, 'init_boot', true, true],
    ['boot with a ramdisk and no init_boot', { images: [at('boot', true)] }, 'boot', true, true],
    [
      'no ramdisk in boot, one in recovery',
      { images: [at('boot', false), at('recovery', true)] },
      'recovery',
      true,
      true,
    ],
    ['no ramdisk anywhere', { images: [at('boot', false), at('recovery', false)] }, null, true, true],
    [
      'a package that lists init_boot',
      { packaged: [at('init_boot', null), at('boot', null)] },
      'init_boot',
      true,
      true,
    ],
    ['the rule against the image', { images: [at('boot', true)], firstApiLevel: 34 }, 'boot', true, false],
    [
      'the handset against the package',
      { packaged: [at('init_boot', null)], partitions: ['boot'] },
      'init_boot',
      false,
      false,
    ],
    ['the rule alone', { firstApiLevel: 34 }, 'init_boot', false, true],
    ['nothing', {}, null, false, true],
  ])('%s', (_what, input, partition, sure, agree) => {
    const result = rootPartitionOf({ partitions: [], firstApiLevel: null, ...input });
    expect(result).toMatchObject({ partition, sure, agree });
    expect(rootWords(result.because)).toMatch(/\.$/);
  });
  it('in recovery an ordinary start without root is not lost', () => {
    expect(
      rootPartitionOf({
        partitions: [],
        firstApiLevel: null,
        images: [at('boot', false), at('recovery', true)],
      }).recoveryOnly,
    ).toBe(true);
  });

  it.each([
    ['its own partition', { partitions: ['recovery', 'boot'] }, 'own partition', false],
    ['a fragment of vendor_boot', { vendorRamdisks: ['platform', 'recovery'] }, 'vendor_boot', false],
    [
      'boot’s ramdisk, shared with root',
      { images: [at('boot', true)], partitions: ['boot', 'system'] },
      'boot',
      true,
    ],
    [
      'its own partition, by a package of its build',
      { images: [at('boot', true)], packaged: ['boot', 'recovery'] },
      'own partition',
      false,
    ],
    ['a place that nobody read, though boot has a ramdisk', { images: [at('boot', true)] }, null, false],
    [
      'a place that nobody read, though a package has none',
      { images: [at('boot', true)], packaged: ['boot'] },
      null,
      false,
    ],
    ['nowhere known', {}, null, false],
  ])('recovery in %s', (_what, input, home, first) => {
    const base = {
      partitions: [],
      packaged: [],
      images: [],
      vendorRamdisks: [],
      slotCount: 2,
      rootPartition: 'boot',
    };
    expect(recoveryHomeOf({ ...base, ...input })).toMatchObject({ home, recoveryFirst: first });
  });

  it.each([
    [{ slotCount: 1 }, ['-']],
    [{ hasSlot: false }, ['-']],
    [{ packageSlots: 'both' as const }, ['a', 'b']],
    [{ activeSlot: 'b' }, ['b']],
    [{}, []],
  ])('writes with %j: %j', (input, slots) => {
    expect(
      writeSlotsOf({ slotCount: 2, activeSlot: null, hasSlot: null, packageSlots: null, ...input }).slots,
    ).toEqual(slots);
  });
});

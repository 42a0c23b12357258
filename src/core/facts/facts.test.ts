import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parsePrinted } from '../formats/facts/parse-facts';
import { factKind, factWord, flattenPrinted } from './catalogue';
import type { ResolveContext, FactReport } from './resolve-facts';
import { isSame, openContradictions, resolveFacts, SITTING_MS } from './resolve-facts';
import { tries } from '../../../tests/fixtures/soak';
import { disputeWords } from '../words/dispute';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const NOW = 100 * DAY;
const tell = (key: string, value: string, change: Partial<FactReport> = {}): FactReport => ({
  key,
  value,
  source: 'pasted',
  witness: 'system',
  at: NOW - HOUR,
  ...change,
});
const context = (change: Partial<ResolveContext> = {}): ResolveContext => ({
  now: NOW,
  rootedAt: () => false,
  choices: [],
  ...change,
});
const one = (reports: readonly FactReport[], change: Partial<ResolveContext> = {}) =>
  resolveFacts(reports, context(change))[0]!;
const boot = { witness: 'bootloader' } as const;

describe('flattenPrinted', () => {
  it.each([
    ['[ro.virtual_ab.enabled]: [true]', 'virtualAb', 'true'],
    ['[ro.crypto.state]: [encrypted]', 'encrypted', 'true'],
    ['[ro.crypto.state]: [unencrypted]', 'encrypted', 'false'],
    ['[sys.oem_unlock_allowed]: [0]', 'unlockAllowed', 'off'],
    ['[sys.oem_unlock_allowed]: [1]', 'unlockAllowed', 'on'],
    ['[ro.boot.verifiedbootstate]: [orange]', 'verifiedBootState', 'orange'],
    ['[ro.build.display.id]: [OPA2 release]', 'displayId', 'OPA2 release'],
    ['[ro.board.first_api_level]: [33]', 'boardFirstApiLevel', '33'],
    ['(bootloader) anti:4', 'antiRollback', '4'],
    ['(bootloader) snapshot-update-status:merging', 'snapshot', 'merging'],
    ['(bootloader) slot-successful:a:yes', 'slot-successful:a', 'true'],
    ['(bootloader) slot-unbootable:b:no', 'slot-unbootable:b', 'false'],
    ['(bootloader) slot-retry-count:b:3', 'slot-retry-count:b', '3'],
    ['partition-size:boot_a: 0x100', 'partition-size:boot_a', '256'],
    [
      '[ro.build.fingerprint]: [club/hill_eu/hill:16/HC1.2609\n05.007/9001:user/release-keys]',
      'fingerprint',
      'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys',
    ],
  ])('reads %j', (text, key, value) =>
    expect(flattenPrinted(parsePrinted(text).values)).toContainEqual({ key, value }),
  );

  it('says nothing of what was not printed, and never the serial', () => {
    expect(flattenPrinted({})).toEqual([]);
    expect(flattenPrinted({ 'ro.serialno': 'X1', serialno: 'X1', 'ro.crypto.state': 'unsupported' })).toEqual(
      [],
    );
  });
  it('a value that was cut off does not swallow the next property', () => {
    const { values, unread } = parsePrinted('[a.long]: [cut off\n[ro.product.device]: [hill]\n');
    expect(values).toEqual({ 'ro.product.device': 'hill' });
    expect(unread).toEqual(['[a.long]: [cut off']);
  });
  it('has words for every value', () => {
    expect([factWord('true'), factWord('false'), factWord('a')]).toEqual(['yes', 'no', 'a']);
    expect(factKind('partition-size:boot_a').label).toBe('Size of boot_a');
  });
});

describe('resolveFacts', () => {
  it('takes the newest report of a witness', () => {
    expect(one([tell('device', 'hill', { at: 1 }), tell('device', 'hall', { at: 2 })])).toMatchObject({
      value: 'hall',
      contradiction: null,
    });
  });
  it('counts what has changed since as changed, not as contradicted', () => {
    const facts = [tell('bootloader', '9.3', { ...boot, at: NOW - 40 * DAY }), tell('bootloader', '9.4')];
    expect(one(facts)).toMatchObject({ value: '9.4', contradiction: null });
  });
  it('sees a contradiction within one sitting', () => {
    const fact = one([
      tell('currentSlot', 'a', { ...boot, at: NOW - HOUR }),
      tell('currentSlot', 'b', { at: NOW - HOUR / 2 }),
    ]);
    expect(fact).toMatchObject({ value: 'b', contradiction: { kind: 'sources differ', chosen: false } });
    expect(openContradictions([fact])).toEqual([
      {
        key: 'currentSlot',
        fact: 'Active slot',
        first: { witness: 'system', value: 'b' },
        other: { witness: 'bootloader', value: 'a' },
      },
    ]);
  });
  it('never lets what does not change differ, however long ago', () => {
    expect(
      one([tell('model', 'Hill 1', { ...boot, at: 1 }), tell('model', 'Hill 2')]).contradiction,
    ).not.toBeNull();
  });

  describe('a claim of a rooted system', () => {
    const rooted = { rootedAt: () => true };
    it('gives way to evidence, and stops the round', () => {
      const fact = one([tell('unlocked', 'true', boot), tell('unlocked', 'false')], rooted);
      expect(fact).toMatchObject({
        value: 'true',
        witness: 'bootloader',
        contradiction: { kind: 'claim against evidence', chosen: false },
      });
      expect(disputeWords(openContradictions([fact])[0]!)).toBe(
        'Bootloader unlocked: the bootloader says yes, the running system says no.',
      );
    });
    it('never outdates evidence, however much newer', () => {
      const fact = one(
        [
          tell('patchLevel', '2026-09-05', { witness: 'image', at: NOW - 30 * DAY }),
          tell('patchLevel', '2026-11-05'),
        ],
        rooted,
      );
      expect(fact).toMatchObject({ value: '2026-09-05', contradiction: { kind: 'claim against evidence' } });
    });
    it('of the slot is none while an update waits: that has selected its slot already', () => {
      const told = (snapshot: string) =>
        openContradictions(
          resolveFacts(
            [tell('currentSlot', 'a'), tell('currentSlot', 'b', boot), tell('snapshot', snapshot)],
            { now: NOW, rootedAt: () => true, choices: [] },
          ),
        ).map(({ key }) => key);
      expect(told('snapshotted')).toEqual([]);
      expect(told('none')).toEqual(['currentSlot']);
    });
    it('is outdated by newer evidence', () => {
      const fact = one(
        [tell('currentSlot', 'a', { at: NOW - 5 * DAY }), tell('currentSlot', 'b', boot)],
        rooted,
      );
      expect(fact).toMatchObject({ value: 'b', contradiction: null });
    });
    it('can not be chosen', () => {
      const choices = [{ key: 'unlocked', value: 'false', at: NOW }];
      expect(
        one([tell('unlocked', 'true', boot), tell('unlocked', 'false')], { ...rooted, choices }),
      ).toMatchObject({ value: 'true' });
    });
    it('stands as a claim where nothing contradicts it', () => {
      expect(one([tell('device', 'hill')], rooted)).toMatchObject({ claim: true, contradiction: null });
    });
  });

  describe('a choice', () => {
    const differing = [tell('model', 'Hill 1', boot), tell('model', 'Hill 2')];
    it('settles sources that differ', () => {
      const fact = one(differing, { choices: [{ key: 'model', value: 'Hill 1', at: NOW }] });
      expect(fact).toMatchObject({ value: 'Hill 1', contradiction: { chosen: true } });
      expect(openContradictions([fact])).toEqual([]);
    });
    it('ends when something newer contradicts it', () => {
      const fact = one(differing, { choices: [{ key: 'model', value: 'Hill 1', at: NOW - 2 * HOUR }] });
      expect(fact.contradiction?.chosen).toBe(false);
    });
    it('of a value that nobody tells is none', () => {
      expect(
        one(differing, { choices: [{ key: 'model', value: 'Hill 9', at: NOW }] }).contradiction?.chosen,
      ).toBe(false);
    });
  });

  it.each([
    ['currentSlot', 8, true],
    ['currentSlot', 6, false],
    ['model', 5000, false],
    ['batteryOk', 0.1, true],
  ])('%s of %s days ago is stale: %s', (key, days, stale) =>
    expect(one([tell(key, 'x', { at: NOW - days * DAY })])).toMatchObject({ stale }),
  );

  it('always takes a value that somebody told, and names every other as contradicting or outdated', () => {
    const report = fc.record({
      key: fc.constantFrom('currentSlot', 'model', 'unlocked'),
      value: fc.constantFrom('a', 'b', 'c'),
      source: fc.constantFrom('typed', 'pasted', 'link', 'file'),
      witness: fc.constantFrom('system', 'bootloader', 'image', 'person'),
      at: fc.integer({ min: 0, max: 20 }).map((n) => n * (SITTING_MS / 2)),
    }) as fc.Arbitrary<FactReport>;
    fc.assert(
      fc.property(fc.array(report, { minLength: 1, maxLength: 12 }), fc.boolean(), (reports, rooted) => {
        const resolved = resolveFacts(reports, context({ rootedAt: () => rooted }));
        expect(resolved.map((fact) => fact.key).sort()).toEqual(
          [...new Set(reports.map((one) => one.key))].sort(),
        );
        for (const fact of resolved) {
          expect(reports.some((one) => one.key === fact.key && one.value === fact.value)).toBe(true);
          for (const other of fact.contradiction?.others ?? []) expect(other.value).not.toBe(fact.value);
        }
      }),
      tries(),
    );
  });
});

describe('a value that is a list', () => {
  it.each([
    ['rd-77.2,rd-77.2', 'rd-77.2', true],
    ['a, b', 'b,a', true],
    ['a,b', 'a', false],
    ['a', 'b', false],
    ['a,b', 'a,c', false],
  ] as const)('%s and %s are the same: %s', (first, other, same) => {
    expect(isSame(first, other)).toBe(same);
    expect(isSame(other, first)).toBe(same);
    const fact = one([tell('baseband', first), tell('baseband', other, { ...boot, at: NOW - HOUR + 1 })]);
    expect(fact.contradiction === null).toBe(same);
  });
});

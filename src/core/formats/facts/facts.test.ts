import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { interpretFacts, parsePrinted, splitFingerprint } from './parse-facts';
import { tries } from '../../../../tests/fixtures/soak';

const values = (text: string) => parsePrinted(text).values;

describe('property dumps', () => {
  it.each([
    ['brackets', '[ro.build.id]: [AB1C.250805.012]', { 'ro.build.id': 'AB1C.250805.012' }],
    ['pairs', 'ro.build.id=AB1C.250805.012', { 'ro.build.id': 'AB1C.250805.012' }],
    ['carriage returns', '[a.b]: [1]\r\n[c.d]: [2]\r\n', { 'a.b': '1', 'c.d': '2' }],
    ['brackets in a value', '[ro.product.model]: [Tarn [EU] = 2]', { 'ro.product.model': 'Tarn [EU] = 2' }],
    ['an empty value', '[ro.empty]: []', { 'ro.empty': '' }],
    ['a value that looks like two', '[x.y]: [a]: [b]', { 'x.y': 'a]: [b' }],
    ['a wrapped value', '[x.y]: [first\nsecond]\n[z.z]: [1]', { 'x.y': 'first\nsecond', 'z.z': '1' }],
    ['equals signs in a value', 'persist.a=b=c', { 'persist.a': 'b=c' }],
  ])('with %s', (_what, text, expected) => expect(values(text)).toEqual(expected));

  it('never close with a bracket that is not there', () => {
    const { values: read, unread } = parsePrinted('[x.y]: [open for ever\nand on');
    expect(read).toEqual({});
    expect(unread).toHaveLength(1);
  });
});

describe('bootloader variables', () => {
  it.each([
    ['plain', 'product: hill', { product: 'hill' }],
    ['a round prefix without a space', '(bootloader) product:hill', { product: 'hill' }],
    ['a square prefix', '[bootloader] product: hill', { product: 'hill' }],
    ['names of two parts', '(bootloader) has-slot:boot:yes', { 'has-slot:boot': 'yes' }],
    ['two parts and a space', 'partition-size:boot_a: 0x4000000', { 'partition-size:boot_a': '0x4000000' }],
    ['a value with colons', '(bootloader) version-bootloader:a:b:c', { 'version-bootloader': 'a:b:c' }],
    ['a name nobody knows, behind a prefix', '(bootloader) odd-thing:7', { 'odd-thing': '7' }],
  ])('%s', (_what, text, expected) => expect(values(text)).toEqual(expected));

  it.each([
    'all: Done!',
    'OKAY [  0.012s]',
    'Finished. Total time: 0.013s',
    '< waiting for the handset >',
    'hello there',
    'odd-thing: 7 without a prefix',
  ])('%j stays unread', (line) => {
    expect(parsePrinted(line)).toMatchObject({ kind: 'nothing', values: {}, unread: [line] });
  });
});

describe('interpretFacts', () => {
  it.each([
    ['unlocked: yes', true],
    ['unlocked: no', false],
    ['[ro.boot.flash.locked]: [0]', true],
    ['[ro.boot.flash.locked]: [1]', false],
    ['[ro.boot.vbmeta.device_state]: [unlocked]', true],
    ['[ro.boot.vbmeta.device_state]: [maybe]', null],
    ['product: hill', null],
  ])('%s: unlocked is %s', (text, unlocked) => expect(interpretFacts(values(text)).unlocked).toBe(unlocked));

  it('falls back on the fingerprint’s parts', () => {
    const facts = interpretFacts({ 'ro.build.fingerprint': 'b/p/d:16/ID.250805.1/77:user/keys' });
    expect(facts).toMatchObject({
      device: 'd',
      buildId: 'ID.250805.1',
      incrementalVersion: '77',
      release: '16',
    });
  });
  it('keeps sizes, slots and kinds of partitions', () => {
    const { partitions } = interpretFacts(
      values(
        'partition-size:boot_a: 0x10\nhas-slot:boot: yes\nis-logical:system_a: yes\npartition-size:odd: -5',
      ),
    );
    expect(partitions).toEqual({
      boot_a: { size: 16, hasSlot: null, logical: null },
      boot: { size: null, hasSlot: true, logical: null },
      system_a: { size: null, hasSlot: null, logical: true },
      odd: { size: null, hasSlot: null, logical: null },
    });
  });
  it('tells slots by either source', () => {
    expect(interpretFacts(values('current-slot: b')).currentSlot).toBe('b');
    expect(interpretFacts(values('[ro.boot.slot_suffix]: [_a]'))).toMatchObject({
      currentSlot: 'a',
      slotCount: 2,
    });
  });
  it('never fails on any text', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 300 }), (text) => void interpretFacts(values(text))),
      tries(),
    );
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('[', ']', ':', '=', 'has-slot:', 'a.b', '\n', ' ', '__proto__'), {
          maxLength: 40,
        }),
        (parts) => void interpretFacts(values(parts.join(''))),
      ),
      tries(),
    );
  });
});

describe('splitFingerprint', () => {
  it('takes a whole one apart', () => {
    expect(splitFingerprint('brand/product/device:16/AB1C.250805.012/123:user/release-keys')).toEqual({
      brand: 'brand',
      product: 'product',
      device: 'device',
      release: '16',
      id: 'AB1C.250805.012',
      incremental: '123',
      type: 'user',
      tags: 'release-keys',
    });
  });
  it.each(['', 'AB1C.250805.012', 'a/b/c/d/e', 'a/b:c/d/e:f/g', 'a/b/c:1/d/e:f/g/h'])('%j is none', (text) =>
    expect(splitFingerprint(text)).toBeNull(),
  );
});

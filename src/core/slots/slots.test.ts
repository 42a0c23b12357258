import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { nodePorts } from '@/platform/node/node-ports';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage } from '../../../tests/fixtures/images';
import { sha256 } from '../../../tests/fixtures/server-world';
import { tarBytes } from '../../../tests/fixtures/tars';
import { openReadBack, readBackName } from './read-back';
import type { SlotEntry } from './slot-map';
import { slotMapOf } from './slot-map';
import { tries } from '../../../tests/fixtures/soak';

const entry = (change: Partial<SlotEntry>): SlotEntry => ({
  slot: 'a',
  partition: 'init_boot',
  sha256: 'x',
  certainty: 'predicted',
  reason: 'written',
  at: 1,
  ...change,
});

describe('the slot map', () => {
  it.each<[string, SlotEntry[], object]>([
    ['a prediction', [entry({})], { verdict: 'predicted', sha256: 'x', read: null }],
    [
      'a reading that proves it',
      [entry({}), entry({ certainty: 'read', at: 2 })],
      { verdict: 'read', sha256: 'x' },
    ],
    [
      'a reading that contradicts it',
      [entry({}), entry({ certainty: 'read', sha256: 'y', at: 2 })],
      { verdict: 'differs', sha256: 'y' },
    ],
    [
      'a reading of what was only known by kind',
      [entry({ sha256: null }), entry({ certainty: 'read', sha256: 'y', at: 2 })],
      { verdict: 'read' },
    ],
    [
      'a second reading of the same',
      [entry({ certainty: 'read' }), entry({ certainty: 'read', at: 2 })],
      { verdict: 'read' },
    ],
    [
      'a second reading of another',
      [entry({ certainty: 'read' }), entry({ certainty: 'read', sha256: 'y', at: 2 })],
      { verdict: 'differs' },
    ],
    [
      'a write after a reading',
      [entry({ certainty: 'read' }), entry({ sha256: 'z', at: 2 })],
      { verdict: 'predicted', sha256: 'z' },
    ],
    [
      'a write cut short',
      [entry({}), entry({ certainty: 'unknown', sha256: null, at: 2 })],
      { verdict: 'unknown', sha256: null },
    ],
    ['two of one moment: the later told', [entry({}), entry({ sha256: 'y' })], { sha256: 'y' }],
  ])('after %s', (_what, entries, expected) => expect(slotMapOf(entries)[0]).toMatchObject(expected));

  it('keeps its rows in reading order and every entry in its history, newest first', () => {
    const slotEntry = fc.record({
      slot: fc.constantFrom('a', 'b'),
      partition: fc.constantFrom('boot', 'init_boot', 'vbmeta', 'odd'),
      sha256: fc.constantFrom('x', 'y', null),
      certainty: fc.constantFrom('predicted', 'read', 'unknown'),
      reason: fc.constant('r'),
      at: fc.nat(9),
    }) as fc.Arbitrary<SlotEntry>;
    fc.assert(
      fc.property(fc.array(slotEntry, { maxLength: 20 }), (entries) => {
        const cells = slotMapOf(entries);
        expect(cells.flatMap((cell) => cell.history)).toHaveLength(entries.length);
        for (const { history, at } of cells) {
          expect(history[0]!.at).toBe(at);
          expect(history.every((one, i) => i === 0 || history[i - 1]!.at >= one.at)).toBe(true);
        }
        const order = cells.map((cell) => cell.partition);
        expect(
          order.indexOf('vbmeta') < order.indexOf('boot') &&
            order.includes('vbmeta') &&
            order.includes('boot'),
        ).toBe(false);
      }),
      tries(),
    );
  });
});

describe('names of what was read out', () => {
  it.each([
    ['boot_a.img', 'boot', 'a'],
    ['init_boot_b.bin', 'init_boot', 'b'],
    ['dump/by-name/vendor_boot-a', 'vendor_boot', 'a'],
    ['VBMETA_SYSTEM_A.img', 'vbmeta_system', 'a'],
    ['north gate recovery.img', 'recovery', null],
    ['init_boot slot_b.img', 'init_boot', null],
    ['boot.img', 'boot', null],
    ['boot_animation.zip', 'boot', null],
    ['reboot_a.img', null, null],
    ['system_a.img', null, null],
    ['', null, null],
  ])('%j', (name, partition, slot) =>
    expect(readBackName(name)).toEqual(partition === null ? null : { partition, slot }),
  );
});

describe('openReadBack', () => {
  const open = (...files: (readonly [string, Uint8Array])[]) =>
    openReadBack(
      files.map(([name, bytes]) => memorySource(bytes, name)),
      [],
      nodePorts,
    );

  it('reads single files and one tar, and says where each lies', async () => {
    const [initBoot, boot] = [await stockImage(), await stockImage({ partition: 'boot' })];
    const tar = tarBytes([
      { name: 'out/', bytes: new Uint8Array(0), type: '5' },
      { name: 'out/boot_a.img', bytes: boot },
      { name: 'out/empty.img', bytes: new Uint8Array(0) },
    ]);
    const opened = await open(['init_boot_b.img', initBoot], ['all.tar', tar]);
    expect(
      opened.map(({ file }) => [file.named, file.holds, file.fingerprint, file.sha256, file.problem]),
    ).toEqual([
      [{ partition: 'init_boot', slot: 'b' }, 'init_boot', FINGERPRINT, sha256(initBoot), null],
      [{ partition: 'boot', slot: 'a' }, 'boot', FINGERPRINT, sha256(boot), null],
    ]);
    const { index, start, end } = opened[1]!.place;
    expect(sha256([initBoot, tar][index]!.slice(start, end))).toBe(sha256(boot));
  });
  it('takes the part that a known image fills, in a tar too', async () => {
    const boot = await stockImage({ partition: 'boot' });
    const bytes = concatBytes([boot, seeded(5, 777)]);
    const sources = [memorySource(tarBytes([{ name: 'boot_a.img', bytes }]), 'all.tar')];
    const known = [{ sha256: sha256(boot), sizeBytes: boot.length }];
    const [part] = await openReadBack(sources, known, nodePorts);
    expect(part!.file).toMatchObject({ sha256: sha256(boot), sizeBytes: boot.length, holds: 'boot' });
    expect(part!.place.end - part!.place.start).toBe(boot.length);
    const [whole] = await openReadBack(sources, [], nodePorts);
    expect(whole!.file).toMatchObject({ sha256: sha256(bytes), sizeBytes: bytes.length });
    expect(whole!.place.end - whole!.place.start).toBe(bytes.length);
  });
  it('names what is not what it is called', async () => {
    const [opened] = await open(['boot_a.img', await stockImage()]);
    expect(opened!.file.problem).toBe('It is named boot and holds an image of init_boot.');
  });
  it('takes an empty partition for what it is', async () => {
    const [opened] = await open(['vendor_boot_a.img', new Uint8Array(8192)]);
    expect(opened!.file.holds).toBeNull();
    expect(opened!.file.problem).toMatch(/says nothing/);
  });
  it('fails properly without files, and on a cut tar', async () => {
    expect(await codeOf(() => open())).toBe('not-found');
    const tar = tarBytes([{ name: 'boot_a.img', bytes: new Uint8Array(4096) }]);
    expect(await codeOf(() => open(['all.tar', tar.slice(0, 2000)]))).toBe('truncated');
  });
});

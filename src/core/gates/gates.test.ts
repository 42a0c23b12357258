import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import { LANE_STEPS } from '../lanes/one-image-once';
import { STAGES } from '../lanes/steps';
import { blocking } from './check';
import type { WriteGateInput } from './write-gates';
import { writeGates } from './write-gates';

const good: WriteGateInput = {
  image: { partition: 'init_boot', role: 'patched', fingerprint: FINGERPRINT, patchLevel: '2026-09-05', sizeBytes: 8192, proof: { held: 8, of: 8 } },
  stockKept: true,
  partition: 'init_boot',
  rootPartition: 'init_boot',
  root: { partition: 'init_boot', agree: true, sure: true, opinions: [{ witness: 'image', partition: 'init_boot' }] },
  contradictions: [],
  installed: { fingerprint: FINGERPRINT, device: 'hill', patchLevel: '2026-09-05' },
  unlocked: true,
  activeSlot: 'a',
  slotCount: 2,
  batteryOk: true,
  partitionBytes: 8192,
  kitSupports: { name: 'Burrow 7.3', sdk: [28, 37] },
  sdk: 36,
};
const ids = (input: Partial<WriteGateInput>) => blocking(writeGates({ ...good, ...input }), []).map((check) => check.id);
const image = (change: object) => ({ image: { ...good.image!, ...change } });

describe('the gates before a write', () => {
  it('open for an image that belongs there', () => expect(ids({})).toEqual([]));
  it.each<[string, Partial<WriteGateInput>, string[]]>([
    ['an image of another month', image({ fingerprint: FINGERPRINT.replace('260905', '261005') }), ['image-build']],
    ['an image of the look-alike', image({ fingerprint: FINGERPRINT.replace('hill_eu', 'hill_am') }), ['image-build']],
    ['an image that names no build', image({ fingerprint: null }), ['image-build']],
    ['an image of another partition', image({ partition: 'boot' }), ['image-partition']],
    ['an image the server has not proved', image({ proof: null }), ['image-proof']],
    ['a proof that failed', image({ proof: { held: 7, of: 8 } }), ['image-proof']],
    ['no image', { image: null }, ['image-build', 'image-partition', 'image-proof', 'room']],
    ['no stock image kept', { stockKept: false }, ['stock-kept']],
    ['a locked bootloader', { unlocked: false }, ['unlocked']],
    ['a lock state never read', { unlocked: null }, ['unlocked']],
    ['a slot never read', { activeSlot: null }, ['slot']],
    ['too little room', { partitionBytes: 8191 }, ['room']],
    ['a kit for other releases', { sdk: 38 }, ['kit']],
    ['a low battery', { batteryOk: false }, ['battery']],
    ['a battery never read', { batteryOk: null }, ['battery']],
  ])('close for %s', (_what, change, expected) => expect(ids(change)).toEqual(expected));

  it('take a stock image without a proof', () => expect(ids(image({ role: 'stock', proof: null }))).toEqual([]));
  it('ask for no slot where there is one only', () => expect(ids({ slotCount: 1, activeSlot: null })).toEqual([]));
  it('each say what was seen', () => {
    for (const check of [...writeGates(good), ...writeGates({ ...good, image: null, unlocked: null })]) expect(check.evidence).toMatch(/\.$/);
  });
});

describe('overriding', () => {
  const reason = (checkId: string, text = 'I looked at it') => [{ checkId, reason: text }];
  it('is possible for what was never read, not for what was read and is wrong', () => {
    for (const [change, id] of [
      [{ unlocked: null }, 'unlocked'],
      [{ activeSlot: null, slotCount: null }, 'slot'],
      [{ partitionBytes: null }, 'room'],
    ] as const) {
      expect(blocking(writeGates({ ...good, ...change }), reason(id))).toEqual([]);
    }
  });
  it('needs a reason', () => {
    const checks = writeGates({ ...good, batteryOk: null });
    expect(blocking(checks, reason('battery'))).toEqual([]);
    expect(blocking(checks, reason('battery', '  ')).map((c) => c.id)).toEqual(['battery']);
  });
  it.each([
    ['an image of another build', image({ fingerprint: FINGERPRINT.replace('260905', '261005') }), 'image-build'],
    ['another partition’s image', image({ partition: 'boot' }), 'image-partition'],
    ['a failed proof', image({ proof: { held: 1, of: 8 } }), 'image-proof'],
    ['a locked bootloader', { unlocked: false }, 'unlocked'],
    ['a low battery that was read', { batteryOk: false }, 'battery'],
    ['no way back', { stockKept: false }, 'stock-kept'],
  ] as const)('is never possible for %s', (_what, change, id) => {
    expect(blocking(writeGates({ ...good, ...change }), reason(id)).map((check) => check.id)).toContain(id);
  });
});

describe('the lane', () => {
  const about = { handset: 'North gate', partition: 'init_boot', slot: 'a', build: 'B.1' };
  it('has its stages in order, and a write only in one step', () => {
    const order = LANE_STEPS.map((step) => STAGES.indexOf(step.stage));
    expect([...order].sort((a, b) => a - b)).toEqual(order);
    expect(LANE_STEPS.filter((step) => step.writes).map((step) => step.key)).toEqual(['write-image']);
    expect(new Set(LANE_STEPS.map((step) => step.key)).size).toBe(LANE_STEPS.length);
  });
  it('says all four things at each step, and names the slot it writes', () => {
    for (const step of LANE_STEPS) {
      for (const [name, text] of Object.entries(step.text(about))) expect(text.length, `${step.key} ${name}`).toBeGreaterThan(5);
      expect(step.seconds[0]).toBeLessThan(step.seconds[1]);
    }
    expect(LANE_STEPS.find((step) => step.key === 'write-image')!.text(about).title).toContain('slot a');
    expect(LANE_STEPS.find((step) => step.key === 'write-image')!.text({ ...about, slot: '' }).title).not.toContain('slot');
  });
});

import { describe, expect, it } from 'vitest';
import { GOOD_STEP, GOOD_WRITE } from '../../../tests/fixtures/gate-input';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import { blocking } from './check';
import type { WriteGateInput } from './write-gates';
import { proofOf, writeGates } from './write-gates';
import type { StepKey } from '../steps/step-key';
import type { StepGateInput } from './step-gates';
import { sawWords } from '../words/gates';
import { GATED } from '../steps/deeds';
import { stepGates } from './step-gates';

const ids = (input: Partial<WriteGateInput>) =>
  blocking(writeGates({ ...GOOD_WRITE, ...input }), []).map((check) => check.id);
const image = (change: object) => ({ image: { ...GOOD_WRITE.image!, ...change } });

describe('the gates before a write', () => {
  it('open for an image that belongs there', () => expect(ids({})).toEqual([]));
  it.each<[string, Partial<WriteGateInput>, string[]]>([
    [
      'an image of another month',
      image({ fingerprint: FINGERPRINT.replace('260905', '261005') }),
      ['image-build'],
    ],
    [
      'an image of the look-alike',
      image({ fingerprint: FINGERPRINT.replace('hill_eu', 'hill_am') }),
      ['image-build'],
    ],
    ['an image that names no build', image({ fingerprint: null }), ['image-build']],
    ['an image of another partition', image({ partition: 'boot' }), ['image-partition']],
    ['an image the server has not proved', image({ proof: null }), ['image-proof']],
    ['a proof that failed', image({ proof: { held: 7, of: 8 } }), ['image-proof']],
    [
      'no image',
      { image: null },
      ['image-build', 'image-partition', 'image-proof', 'room', 'recovery-image', 'recovery-handset'],
    ],
    ['no stock image kept', { stockKept: false }, ['stock-kept']],
    ['a locked bootloader', { unlocked: false }, ['unlocked']],
    ['a lock state never read', { unlocked: null }, ['unlocked']],
    ['a slot never read', { activeSlot: null }, ['slot']],
    ['too little room', { partitionBytes: 8191 }, ['room']],
    ['a kit for other releases', { sdk: 38 }, ['kit']],
    ['a low battery', { batteryOk: false }, ['battery']],
    ['a battery never read', { batteryOk: null }, ['battery']],
  ])('close for %s', (_what, change, expected) => expect(ids(change)).toEqual(expected));

  it('take a stock image without a proof', () =>
    expect(ids(image({ role: 'stock', proof: null }))).toEqual([]));
  it('ask for no slot where there is one only', () =>
    expect(ids({ slotCount: 1, activeSlot: null })).toEqual([]));
  it('each say what was seen', () => {
    for (const check of [
      ...writeGates(GOOD_WRITE),
      ...writeGates({ ...GOOD_WRITE, image: null, unlocked: null }),
    ])
      expect(sawWords(check.saw)).toMatch(/\.$/);
  });
});

describe('what an image was held against', () => {
  const facts = { ...GOOD_WRITE.image!, recovery: null, judged: null };
  it('says how many checks of its patch failed', () => {
    expect(proofOf({ ...facts, proof: { held: 8, of: 8 } })).toMatchObject({ kind: 'patch', failed: null });
    expect(proofOf({ ...facts, proof: { held: 1, of: 8 } })).toMatchObject({ failed: '7 of its checks' });
    expect(proofOf({ ...facts, proof: null })).toEqual({ kind: 'nothing' });
  });
});

describe('the kit of an image', () => {
  const kit = (change: Partial<WriteGateInput>) =>
    writeGates({ ...GOOD_WRITE, ...change }).find(({ id }) => id === 'kit')!;
  const judged = { kind: 'nothing' } as never;
  const elsewhere = { image: { ...GOOD_WRITE.image!, judged } };
  it('is not asked of one that was patched elsewhere, and is open where none is known', () => {
    expect(kit({ kitSupports: null, ...elsewhere })).toMatchObject({
      verdict: 'holds',
      saw: { code: 'patched-elsewhere' },
    });
    expect(kit({ kitSupports: null, image: { ...GOOD_WRITE.image!, judged: null } })).toMatchObject({
      verdict: 'unknown',
      saw: { code: 'no-kit' },
    });
    const kitSupports = { name: 'Burrow 7', version: '7', sdk: [28, 30] as const };
    expect(kit({ kitSupports, sdk: 36, ...elsewhere })).toMatchObject({ saw: { code: 'kit-levels' } });
  });
});

describe('least versions that the model’s sheet names', () => {
  const check = (id: string, change: Partial<WriteGateInput>) =>
    writeGates({ ...GOOD_WRITE, ...change }).find((one) => one.id === id)!.verdict;
  it.each([
    ['kit', { kit: '7.3', recovery: null }, 'holds'],
    ['kit', { kit: '7.4', recovery: null }, 'unknown'],
    ['kit', { kit: 'of this year', recovery: null }, 'unknown'],
    ['kit', { kit: '7.10', recovery: null }, 'unknown'],
    ['kit', { kit: null, recovery: '9' }, 'holds'],
    ['recovery-handset', { kit: null, recovery: '3.8' }, 'holds'],
    ['recovery-handset', { kit: null, recovery: '3.9' }, 'unknown'],
    ['recovery-handset', { kit: '9', recovery: null }, 'holds'],
  ] as const)('%s against %j: %s', (id, least, verdict) => expect(check(id, { least })).toBe(verdict));
  it('does not hide that a kit is for other levels', () =>
    expect(check('kit', { sdk: 40, least: { kit: '9', recovery: null } })).toBe('fails'));
});

describe('overriding', () => {
  const reason = (checkId: string, text = 'I looked at it') => [{ checkId, reason: text }];
  it('is possible for what was never read, not for what was read and is wrong', () => {
    for (const [change, id] of [
      [{ unlocked: null }, 'unlocked'],
      [{ activeSlot: null, slotCount: null }, 'slot'],
      [{ partitionBytes: null }, 'room'],
    ] as const) {
      expect(blocking(writeGates({ ...GOOD_WRITE, ...change }), reason(id))).toEqual([]);
    }
  });
  it('needs a reason', () => {
    const checks = writeGates({ ...GOOD_WRITE, batteryOk: null });
    expect(blocking(checks, reason('battery'))).toEqual([]);
    expect(blocking(checks, reason('battery', '  ')).map((c) => c.id)).toEqual(['battery']);
    // one given for another check opens nothing
    expect(blocking(checks, reason('room')).map((c) => c.id)).toEqual(['battery']);
  });
  it.each([
    [
      'an image of another build',
      image({ fingerprint: FINGERPRINT.replace('260905', '261005') }),
      'image-build',
    ],
    ['another partition’s image', image({ partition: 'boot' }), 'image-partition'],
    ['a failed proof', image({ proof: { held: 1, of: 8 } }), 'image-proof'],
    ['a locked bootloader', { unlocked: false }, 'unlocked'],
    ['a low battery that was read', { batteryOk: false }, 'battery'],
    ['no way back', { stockKept: false }, 'stock-kept'],
  ] as const)('is never possible for %s', (_what, change, id) => {
    expect(blocking(writeGates({ ...GOOD_WRITE, ...change }), reason(id)).map((check) => check.id)).toContain(
      id,
    );
  });
});

const shut = (key: StepKey, change: Partial<StepGateInput>) =>
  blocking(stepGates(key, { ...GOOD_STEP, ...change }), []).map((check) => check.id);

describe('the gates of each step', () => {
  it('open where everything is as it should be', () => {
    for (const key of GATED) expect(shut(key, {}), key).toEqual([]);
  });
  it.each<[StepKey, Partial<StepGateInput>, string]>([
    ['write-build', { fuse: 4 }, 'fuse'],
    ['write-build-patched', { fuse: null }, 'fuse'],
    ['write-set', { fuse: null, bootloader: { level: null, versions: [], running: 'tb-1' } }, 'fuse'],
    ['write-set-wipe', { wholeMissing: ['radio'] }, 'whole'],
    ['take-update', { snapshot: 'merging' }, 'snapshot'],
    ['write-build', { snapshot: 'snapshotted' }, 'snapshot'],
    ['other-slot', { snapshot: 'merging' }, 'merging'],
    ['lock', { notStock: [{ partition: 'boot', slot: 'b', why: 'other' }] }, 'makers-own'],
    ['lock', { startedUnlocked: false }, 'started'],
    ['lock', { unlockSwitch: 'off' }, 'switch-seen'],
    ['lock', { buildIndex: 4 }, 'index'],
    ['sideload', { packageFits: { verdict: 'other variant', reason: { code: 'older' } } }, 'package'],
  ])('%s is shut for good by %o', (key, change, id) => {
    const held = blocking(stepGates(key, { ...GOOD_STEP, ...change }), [
      { checkId: id, reason: 'I know better' },
    ]);
    expect(held.map((check) => check.id)).toEqual([id]);
  });
  it('let a person state what could not be read, and a missing backup be overridden', () => {
    for (const [key, change, id] of [
      ['write-build', { snapshot: null }, 'snapshot'],
      ['unlock', { backupDays: null }, 'backup'],
      ['unlock', { unlockSwitch: null }, 'switch'],
      ['lock', { storedIndex: null }, 'index'],
    ] as const) {
      expect(shut(key, change), key).toEqual([id]);
      expect(
        blocking(stepGates(key, { ...GOOD_STEP, ...change }), [{ checkId: id, reason: 'looked' }]),
      ).toEqual([]);
    }
  });
  it('a waiting update does not keep a slot from being selected, a merging one does', () => {
    expect(shut('other-slot', { snapshot: 'snapshotted' })).toEqual([]);
  });
});

import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import { slotMapOf } from '../slots/slot-map';
import type { SlotEntry } from '../slots/slot-map';
import type { GuardedHandset, VaultImage, WayBackInput } from './way-back';
import type { Guarding, WayBackSays } from '../words/way-back';
import { guardiansOf, wayBackOf } from './way-back';

const image = (sha256: string, role: VaultImage['role'], change: Partial<VaultImage> = {}): VaultImage => ({
  sha256,
  role,
  partition: 'init_boot',
  fingerprint: FINGERPRINT,
  ...change,
});
const stock = image('s', 'stock');
const patched = image('p', 'patched');
const lies = (
  sha256: string | null,
  certainty: SlotEntry['certainty'],
  partition = 'init_boot',
): SlotEntry => ({
  slot: 'a',
  partition,
  sha256,
  certainty,
  reason: 'r',
  at: 1,
});
const input = (entries: readonly SlotEntry[], change: Partial<WayBackInput> = {}): WayBackInput => ({
  fingerprint: FINGERPRINT,
  unlocked: true,
  rootPartition: 'init_boot',
  activeSlot: 'a',
  slotCount: 2,
  cells: slotMapOf(entries),
  images: [stock, patched],
  damaged: new Set(),
  snapshot: 'none',
  ...change,
});

describe('the way back', () => {
  it.each<[string, WayBackInput, boolean, WayBackSays]>([
    ['a patched image lies there', input([lies('p', 'read')]), true, { code: 'steps', steps: 3, minutes: 3 }],
    ['nothing was ever read', input([]), true, { code: 'steps', steps: 3, minutes: 3 }],
    [
      'the stock image is only predicted',
      input([lies(null, 'predicted')]),
      true,
      { code: 'steps', steps: 3, minutes: 3 },
    ],
    ['the stock image was read', input([lies('s', 'read')]), true, { code: 'stock-already' }],
    [
      'its stock is not in the vault',
      input([lies('p', 'read')], { images: [patched] }),
      false,
      { code: 'missing', partitions: ['init_boot'] },
    ],
    [
      'its stock is damaged',
      input([lies('p', 'read')], { damaged: new Set(['s']) }),
      false,
      { code: 'missing', partitions: ['init_boot'] },
    ],
    [
      'a second partition is changed',
      input([lies('p', 'read'), lies('b', 'read', 'boot')], {
        images: [stock, patched, image('b', 'unknown', { partition: 'boot' })],
      }),
      false,
      { code: 'missing', partitions: ['boot'] },
    ],
    [
      'a write was cut short elsewhere',
      input([lies('p', 'read'), lies(null, 'unknown', 'boot')]),
      false,
      { code: 'missing', partitions: ['boot'] },
    ],
    [
      'an older stock image lies there',
      input([lies('o', 'read')], { images: [stock, image('o', 'stock', { fingerprint: 'older' })] }),
      true,
      { code: 'steps', steps: 3, minutes: 3 },
    ],
    ['it is locked', input([], { unlocked: false }), true, { code: 'locked' }],
    ['its build is not known', input([], { fingerprint: null }), false, { code: 'build-unknown' }],
    ['where root sits is not known', input([], { rootPartition: null }), false, { code: 'root-unknown' }],
  ])('when %s', (_what, given, open, says) => {
    const result = wayBackOf(given);
    expect(result.open).toBe(open);
    expect(result.says).toEqual(says);
  });
  it.each([
    ['merging', 'gone'],
    ['snapshotted', 'until-merging'],
    ['none', 'never-read'],
  ])('tells of the other slot while the update is %s', (snapshot, says) => {
    expect(wayBackOf(input([lies('p', 'read')], { snapshot })).otherSlot).toBe(says);
  });
  it('says what the other slot holds only where that was read or written from here', () => {
    const other = (sha256: string | null) =>
      wayBackOf(input([lies('p', 'read'), { ...lies(sha256, 'read'), slot: 'b' }])).otherSlot;
    expect(other('s')).toBe('older-build');
    expect(other(null)).toBe('never-read');
  });
  it('says nothing of another slot where there is one', () =>
    expect(wayBackOf(input([], { slotCount: 1 })).otherSlot).toBeNull());
});

describe('the last way back', () => {
  const handset: GuardedHandset = {
    ...input([lies('p', 'read')]),
    name: 'North',
    slotFingerprints: [FINGERPRINT],
    neededByRound: ['z'],
    ownRecovery: 'r',
  };
  const guard = (one: VaultImage, patchedFromIt: readonly string[] = []) =>
    guardiansOf({ ...one, patchedFromIt }, [handset]).map(({ code }) => code);
  it.each<[string, VaultImage, readonly string[], Guarding['code'] | null]>([
    ['the stock of what runs', stock, [], 'way-back'],
    ['what lies on a slot', patched, [], 'lies-there'],
    [
      'what the image on a slot was made from',
      image('old', 'unknown', { fingerprint: null }),
      ['p'],
      'made-from',
    ],
    ['an image of a build that is nowhere', image('x', 'stock', { fingerprint: 'gone' }), [], null],
    ['what the open round works with', image('z', 'patched'), [], 'open-round'],
    ['the recovery of its rounds', image('r', 'recovery', { fingerprint: null }), [], 'own-recovery'],
    ['another recovery', image('q', 'recovery', { fingerprint: null }), [], null],
    ['a patched image that lies nowhere', image('y', 'patched'), [], null],
  ])('is protected: %s', (_what, one, from, code) => {
    expect(guard(one, from)).toEqual(code === null ? [] : [code]);
  });
});

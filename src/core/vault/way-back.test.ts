import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import { slotMapOf } from '../slots/slot-map';
import type { SlotEntry } from '../slots/slot-map';
import type { GuardedHandset, VaultImage, WayBackInput } from './way-back';
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
const lies = (sha256: string | null, certainty: SlotEntry['certainty'], partition = 'init_boot'): SlotEntry => ({
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
  it.each<[string, WayBackInput, boolean, RegExp]>([
    ['a patched image lies there', input([lies('p', 'read')]), true, /^3 steps, about 3 min$/],
    ['nothing was ever read', input([]), true, /3 steps/],
    ['the stock image is only predicted', input([lies(null, 'predicted')]), true, /3 steps/],
    ['the stock image was read', input([lies('s', 'read')]), true, /stock already/],
    ['its stock is not in the vault', input([lies('p', 'read')], { images: [patched] }), false, /stock init_boot missing/],
    ['its stock is damaged', input([lies('p', 'read')], { damaged: new Set(['s']) }), false, /missing/],
    [
      'a second partition is changed',
      input([lies('p', 'read'), lies('b', 'read', 'boot')], { images: [stock, patched, image('b', 'unknown', { partition: 'boot' })] }),
      false,
      /stock boot missing/,
    ],
    ['a write was cut short elsewhere', input([lies('p', 'read'), lies(null, 'unknown', 'boot')]), false, /stock boot missing/],
    [
      'an older stock image lies there',
      input([lies('o', 'read')], { images: [stock, image('o', 'stock', { fingerprint: 'older' })] }),
      true,
      /3 steps/,
    ],
    ['it is locked', input([], { unlocked: false }), true, /locked/],
    ['its build is not known', input([], { fingerprint: null }), false, /build is not known/],
    ['where root sits is not known', input([], { rootPartition: null }), false, /where root sits/],
  ])('when %s', (_what, given, open, words) => {
    const result = wayBackOf(given);
    expect(result.open).toBe(open);
    expect(result.sentence).toMatch(words);
  });
  it.each([
    ['merging', /no way back any more/],
    ['snapshotted', /until merging/],
    ['none', /older build/],
  ])('tells of the other slot while the update is %s', (snapshot, words) => {
    expect(wayBackOf(input([lies('p', 'read')], { snapshot })).otherSlot).toMatch(words);
  });
  it('says nothing of another slot where there is one', () => expect(wayBackOf(input([], { slotCount: 1 })).otherSlot).toBeNull());
});

describe('the last way back', () => {
  const handset: GuardedHandset = { ...input([lies('p', 'read')]), name: 'North', slotFingerprints: [FINGERPRINT], neededByRound: ['z'] };
  const guard = (one: VaultImage, patchedFromIt: readonly string[] = []) =>
    guardiansOf({ ...one, patchedFromIt }, [handset]).map(({ reason }) => reason);
  it.each<[string, VaultImage, readonly string[], RegExp | null]>([
    ['the stock of what runs', stock, [], /way back to stock/],
    ['what lies on a slot', patched, [], /lies on North/],
    ['what the image on a slot was made from', image('old', 'unknown', { fingerprint: null }), ['p'], /made from it/],
    ['an image of a build that is nowhere', image('x', 'stock', { fingerprint: 'gone' }), [], null],
    ['what the open round works with', image('z', 'patched'), [], /round that is open on North/],
    ['a patched image that lies nowhere', image('y', 'patched'), [], null],
  ])('is protected: %s', (_what, one, from, words) => {
    const reasons = guard(one, from);
    if (words === null) expect(reasons).toEqual([]);
    else expect(reasons[0]).toMatch(words);
  });
});

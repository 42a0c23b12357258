import { describe, expect, it } from 'vitest';
import { FINGERPRINT } from '../../../tests/fixtures/images';
import type { SlotEntry } from '../slots/slot-map';
import { slotMapOf } from '../slots/slot-map';
import type { FamilyHandset, FamilyImage, FamilyNode, Origin } from './families';
import { familiesOf, placesOf } from './families';

const NEXT = FINGERPRINT.replace('260905', '261005');
const OTHER = FINGERPRINT.replace('hill_eu', 'ridge_eu');
const origin = (change: Partial<Origin> = {}): Origin => ({
  kind: 'package',
  name: 'september.zip',
  verified: true,
  options: {},
  at: 1,
  ...change,
});
const image = (sha256: string, change: Partial<FamilyImage> = {}): FamilyImage => ({
  sha256,
  partition: 'init_boot',
  role: 'stock',
  fingerprint: FINGERPRINT,
  patchLevel: '2026-09-05',
  kit: null,
  stockSha256: null,
  origins: [origin()],
  ...change,
});
const patched = (sha256: string, stockSha256: string, change: Partial<FamilyImage> = {}) =>
  image(sha256, {
    role: 'patched',
    kit: 'burrow 7.3',
    stockSha256,
    origins: [origin({ kind: 'patch', name: null })],
    ...change,
  });
const entry = (sha256: string | null, at: number, change: Partial<SlotEntry> = {}): SlotEntry => ({
  slot: 'a',
  partition: 'init_boot',
  sha256,
  certainty: 'predicted',
  reason: 'written over the link',
  at,
  ...change,
});
const handset = (
  name: string,
  entries: readonly SlotEntry[],
  fingerprint: string | null = null,
): FamilyHandset => ({
  name,
  fingerprint,
  cells: slotMapOf(entries),
});

/** A tree in one line: what stands where. */
const line = (node: FamilyNode): string => {
  const own =
    node.kind === 'origin'
      ? (node.origin.name ?? node.origin.kind)
      : node.kind === 'image'
        ? node.id
        : node.place.handset;
  return node.children.length === 0 ? own : `${own}(${node.children.map(line).join(' ')})`;
};
const trees = (images: readonly FamilyImage[], handsets: readonly FamilyHandset[] = []) =>
  familiesOf(images, handsets).map(({ roots }) => roots.map(line).join(' '));

describe('families of images', () => {
  it('go from the package over stock and patched to where each lies', () => {
    const ridge = handset('Ridge', [
      entry('p', 10),
      entry('p', 20, { certainty: 'read' }),
      entry('s', 5, { slot: 'b' }),
    ]);
    expect(trees([image('s'), patched('p', 's'), image('boot', { partition: 'boot' })], [ridge])).toEqual([
      'september.zip(s(p(Ridge) Ridge) boot)',
    ]);
  });
  it('begin with what says most: a package, else a file, else a reading', () => {
    const three = [
      origin({ kind: 'read-back', name: null, at: 1 }),
      origin({ kind: 'file', name: 'found.img', at: 2 }),
      origin({ at: 3 }),
    ];
    expect(trees([image('s', { origins: three })])).toEqual(['september.zip(s)']);
    expect(trees([image('s', { origins: three.slice(0, 2) })])).toEqual(['found.img(s)']);
    expect(trees([image('s', { origins: three.slice(0, 1) })])).toEqual(['read-back(s)']);
    expect(trees([image('s', { origins: [] })])).toEqual(['file(s)']);
  });
  it('put files apart and what came of one package together', () => {
    const file = (sha256: string) => image(sha256, { origins: [origin({ kind: 'file', name: null })] });
    expect(trees([image('s'), image('t'), file('f'), file('g')])).toEqual([
      'september.zip(s t) file(f) file(g)',
    ]);
  });
  it('say what a patched image was made from where that is gone or names another build', () => {
    const rootOf = (images: readonly FamilyImage[], of: string) => {
      const roots = familiesOf(images, []).flatMap((family) => family.roots);
      return roots.find(({ children }) => children.some(({ id }) => id === of));
    };
    expect(rootOf([patched('p', 'gone')], 'p')).toMatchObject({
      origin: { kind: 'patch' },
      madeFrom: { sha256: 'gone', here: false },
    });
    expect(rootOf([image('s', { fingerprint: NEXT }), patched('p', 's')], 'p')).toMatchObject({
      origin: { kind: 'patch' },
      madeFrom: { sha256: 's', here: true },
    });
    // brought as a file, it was made elsewhere: that stands first there too
    const brought = patched('p', 'gone', { origins: [origin({ kind: 'file', name: 'made.img' })] });
    expect(rootOf([brought], 'p')).toMatchObject({ origin: { name: 'made.img' }, madeFrom: null });
    expect(rootOf([image('s'), patched('p', 's')], 's')).toMatchObject({ madeFrom: null });
  });
  it('put what was patched over a stock image with a recovery in it below that stock image', () => {
    const rebuilt = patched('r', 's', {
      role: 'recovery',
      kit: null,
      origins: [origin({ kind: 'rebuilt', name: null })],
    });
    expect(trees([image('s'), rebuilt, patched('p', 'r')])).toEqual(['september.zip(s(r p))']);
    expect(trees([rebuilt, patched('p', 'r')])).toEqual(['rebuilt(r) patch(p)']);
  });
  it('lose none that says it came of itself, or two that say it of each other', () => {
    expect(trees([patched('p', 'p')])).toEqual(['patch(p)']);
    expect(trees([patched('p', 'q'), patched('q', 'p')])).toEqual(['patch(p(q))']);
  });
  it('stand by build: those that run first, then by variant, the newest first, the nameless last', () => {
    const images = [
      image('none', { fingerprint: null, patchLevel: null }),
      image('old'),
      image('new', { fingerprint: NEXT, patchLevel: '2026-10-05' }),
      image('other', { fingerprint: OTHER, patchLevel: '2026-12-05' }),
    ];
    const keys = (handsets: readonly FamilyHandset[]) =>
      familiesOf(images, handsets).map(({ images: [first] }) => first!.sha256);
    expect(keys([])).toEqual(['new', 'old', 'other', 'none']);
    expect(keys([handset('Ridge', [], OTHER)])).toEqual(['other', 'new', 'old', 'none']);
    expect(familiesOf(images, [handset('Ridge', [], OTHER)])[0]!.runsOn).toEqual(['Ridge']);
  });
});

describe('places of an image', () => {
  it('say when it was written and read, and whether it still lies there', () => {
    const ridge = handset('Ridge', [
      entry('p', 10),
      entry('p', 20, { certainty: 'read' }),
      entry('s', 30, { slot: 'b' }),
      entry('p', 5, { slot: 'b' }),
    ]);
    expect(placesOf('p', [ridge])).toEqual([
      { handset: 'Ridge', slot: 'a', partition: 'init_boot', writtenAt: 10, readAt: 20, now: true },
      { handset: 'Ridge', slot: 'b', partition: 'init_boot', writtenAt: 5, readAt: null, now: false },
    ]);
    expect(placesOf('x', [ridge])).toEqual([]);
  });
  it('have no slot where the handset has one, and those of now first', () => {
    const [barn, saddle] = [
      handset('Barn', [entry('p', 1, { slot: '-' }), entry(null, 2, { slot: '-', certainty: 'unknown' })]),
      handset('Saddle', [entry('p', 3)]),
    ];
    expect(placesOf('p', [barn, saddle]).map(({ handset: name, slot, now }) => [name, slot, now])).toEqual([
      ['Saddle', 'a', true],
      ['Barn', null, false],
    ]);
  });
});

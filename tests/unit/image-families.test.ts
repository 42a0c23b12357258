import { afterEach, beforeEach, expect, it } from 'vitest';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import type { FamilyNode } from '@/core/lineage/families';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { addHandset } from '@/server/services/bench-service';
import { imageFamilies } from '@/server/services/family-view';
import { storeImage, storeKit } from '@/server/services/image-service';
import { reportSlot } from '@/server/services/slot-service';
import { FINGERPRINT, kitZip, stockImage } from '../fixtures/images';
import { DUMP, freshServer, pieces, sha256 } from '../fixtures/server-world';

/* Build by build, from the package to the handsets, out of a real store. */

let server: Awaited<ReturnType<typeof freshServer>>;
beforeEach(async () => void (server = await freshServer()));
afterEach(() => server.end());

const PACKAGE = 'hill_eu-whole.zip';
const keep = (bytes: Uint8Array, partition: string) =>
  storeImage(sha256(bytes), pieces(bytes), { from: 'package', package: PACKAGE, partition, verified: 'yes' });

/** What stands under a node, by kind and hash or handset. */
const below = ({ children }: FamilyNode) =>
  children.map((node) =>
    node.kind === 'image' ? node.image.sha256 : node.kind === 'place' ? node.place.handset : '',
  );

it('shows package, stock, patched and where each lies, with what needs it', async () => {
  const handset = await addHandset('North', DUMP);
  const stock = await stockImage();
  await keep(stock, 'init_boot');
  const kit = await kitZip();
  await storeKit(sha256(kit), pieces(kit), 'burrow.kit.zip');
  const made = await patchImage(
    memorySource(stock, 'init_boot'),
    (await readKit(memorySource(kit), nodePorts)).kit,
    nodePorts,
  );
  await storeImage(made.sha256, pieces(made.bytes), {
    from: 'patch',
    stock: sha256(stock),
    kit: sha256(kit),
  });
  const strange = await stockImage({ fingerprint: FINGERPRINT.replace('260905', '250105') });
  await storeImage(sha256(strange), pieces(strange), { from: 'file', name: 'found.img' });
  const said = { handsetId: handset, slot: 'a', partition: 'init_boot', reason: 'written over the link' };
  await reportSlot({ ...said, sha256: sha256(stock), certainty: 'predicted' });
  await reportSlot({ ...said, sha256: made.sha256, certainty: 'predicted' });
  await reportSlot({ ...said, sha256: made.sha256, certainty: 'read' });

  const [own, other, ...more] = await imageFamilies();
  expect(more).toEqual([]);
  expect(own).toMatchObject({ build: 'HC1.260905.007', product: 'hill_eu', runsOn: ['North'] });
  const [root] = own!.roots;
  expect(own!.roots).toHaveLength(1);
  expect(root).toMatchObject({ kind: 'origin', origin: { kind: 'package', name: PACKAGE, verified: true } });
  expect(below(root!)).toEqual([sha256(stock)]);
  expect(below(root!.children[0]!)).toEqual([made.sha256, 'North']);
  const row = (hash: string) => own!.images.find((image) => image.sha256 === hash)!;
  expect(row(made.sha256).places).toMatchObject([{ slot: 'a', now: true }]);
  expect(row(made.sha256).places[0]!.readAt).not.toBeNull();
  // overwritten since: it lay there
  expect(row(sha256(stock)).places).toMatchObject([{ slot: 'a', now: false, readAt: null }]);
  expect(row(sha256(stock)).wayBackOf).toEqual(['North']);
  expect(row(made.sha256).neededFor).not.toBeNull();

  expect(other).toMatchObject({ runsOn: [], images: [{ neededFor: null, wayBackOf: [], places: [] }] });
  expect(other!.roots).toMatchObject([{ origin: { kind: 'file', name: 'found.img' } }]);
});

import { describe, expect, it } from 'vitest';
import { seeded } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { sha256Hex } from '../bytes/digest';
import { concatBytes } from '../bytes/bytes';
import { heldImage } from './held-image';

const hash = (bytes: Uint8Array<ArrayBuffer>) => sha256Hex(nodePorts.digests, bytes);
const held = (bytes: Uint8Array<ArrayBuffer>, images: Parameters<typeof heldImage>[1]) =>
  heldImage(memorySource(bytes, 'boot_a.img'), images, nodePorts.digests).then(({ sha256 }) => sha256);

describe('the image that a partition holds', () => {
  it('is the one that fills its beginning, whatever lies behind it', async () => {
    const [image, rest] = [seeded(1, 4096), seeded(2, 1000)];
    const known = { sha256: await hash(image), sizeBytes: image.length };
    const read = concatBytes([image, rest]);
    expect(await held(read, [known])).toBe(known.sha256);
    expect(await held(image, [known])).toBe(known.sha256);
    // one byte of it is another, or it is longer than the partition
    const other = read.slice();
    other[4095] = other[4095]! ^ 1;
    expect(await held(other, [known])).toBe(await hash(other));
    expect(await held(image.slice(0, 4095), [known])).toBe(await hash(image.slice(0, 4095)));
  });
  it('is the larger one where one image begins with another, and nobody’s where none is known', async () => {
    const [small, large] = [seeded(1, 1000), seeded(1, 2000)];
    const images = [
      { sha256: await hash(small), sizeBytes: 1000 },
      { sha256: await hash(large), sizeBytes: 2000 },
    ];
    const read = concatBytes([large, new Uint8Array(500)]);
    expect(await held(read, images)).toBe(images[1]!.sha256);
    expect(await held(read, [])).toBe(await hash(read));
    expect(await held(read, [{ sha256: images[0]!.sha256, sizeBytes: 2000 }])).toBe(await hash(read));
  });
});

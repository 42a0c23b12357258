import { describe, expect, it } from 'vitest';
import { stockImage } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { EternoError } from '../errors';
import type { OpenedPackage, PackageImage } from '../packages/package-report';
import { plainImage, UNKNOWN_BUILD } from '../packages/package-report';
import { weighWrite } from './weigh-write';
import { writeTargetOf } from './write-target';

/* What a package says of an image, and when it says nothing. */

/** A package that lists one image, and gives it out only where it can be taken. */
const pack = (bytes: Uint8Array, change: Partial<PackageImage>): OpenedPackage => ({
  report: {
    kind: 'update-zip',
    incremental: change.needsSource === true,
    build: { ...UNKNOWN_BUILD, devices: ['hill'] },
    images: [plainImage('init_boot', bytes.length, change)],
    evidence: [],
    warnings: [],
    writes: [],
  },
  contents: [],
  async take(_partition, sink) {
    if (change.needsSource === true || (change.unsupported ?? []).length > 0)
      throw new EternoError('usage', 'it needs its old image');
    await sink.begin(bytes.length);
    await sink.writeAt(0, bytes);
    return { size: bytes.length, sha256: '', verified: true };
  },
});

describe('an image beside its package', () => {
  it.each<[string, Partial<PackageImage>, boolean]>([
    ['a whole one', {}, true],
    ['one that starts from an old image', { needsSource: true }, false],
    ['one that can’t be unpacked here', { unsupported: ['ZUCCHINI'] }, false],
  ])('%s', async (_, change, tells) => {
    const bytes = await stockImage();
    const weighed = await weighWrite(
      { image: memorySource(bytes, 'i.img'), package: pack(bytes, change), stock: null, kit: null },
      { purpose: 'stock', target: writeTargetOf({}, 'init_boot', 'a') },
      nodePorts,
    );
    expect(weighed.image.package !== null).toBe(tells);
    expect(weighed.proof.kind === 'bytes' && weighed.proof.same).toBe(tells);
  });
});

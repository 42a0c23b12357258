import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { FINGERPRINT, seeded, stockImage } from '../../../tests/fixtures/images';
import { nodePorts } from '../../platform/node/node-ports';
import { memorySource } from '../bytes/byte-source';
import { concatBytes } from '../bytes/bytes';
import { memorySink } from '../bytes/image-sink';
import { writeSparse } from '../formats/sparse/writer';
import { inspectImage } from './inspect-image';
import { openPackage } from './open-package';
import { unwrap } from './unwrap';

async function sparse(bytes: Uint8Array): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  await writeSparse(memorySource(bytes), async (part) => void parts.push(part.slice()));
  return concatBytes(parts);
}
const gzip = (bytes: Uint8Array) => nodePorts.codecs.encode('gzip', bytes);

describe('wrapped images', () => {
  it.each([
    ['sparse', sparse],
    ['gzip', gzip],
    ['lz4 legacy', (bytes: Uint8Array) => nodePorts.codecs.encode('lz4-legacy', bytes)],
    ['xz', (bytes: Uint8Array) => nodePorts.codecs.encode('xz', bytes)],
    ['gzip around sparse', async (bytes: Uint8Array) => gzip(await sparse(bytes))],
  ] as const)('%s: are told for what they are, and taken out raw', async (_what, wrap) => {
    const stock = await stockImage();
    const opened = await openPackage(memorySource(await wrap(stock), 'image'), nodePorts);
    expect(opened.report).toMatchObject({
      kind: 'bare-image',
      build: { fingerprint: FINGERPRINT },
      images: [{ partition: 'init_boot', size: stock.length }],
    });
    const sink = memorySink('out');
    expect((await opened.take('init_boot', sink)).verified).toBe(true);
    expect(sink.bytes).toEqual(stock);
  });

  it('more than four deep are refused', async () => {
    let bytes: Uint8Array = await stockImage();
    for (let i = 0; i < 4; i += 1) bytes = await gzip(bytes);
    expect((await unwrap(memorySource(bytes), nodePorts)).wrappings).toHaveLength(4);
    expect(await codeOf(async () => unwrap(memorySource(await gzip(bytes)), nodePorts))).toBe('too-deep');
  });

  it('whose sparse sum is wrong are refused when they are taken', async () => {
    const bytes = await sparse(await stockImage());
    new DataView(bytes.buffer).setUint32(24, 12345, true);
    const opened = await openPackage(memorySource(bytes), nodePorts);
    expect(await codeOf(() => opened.take('init_boot', memorySink('x')))).toBe('bad-hash');
  });

  it('that are damaged inside say so', async () => {
    const packed = await gzip(await stockImage());
    expect(
      await codeOf(() => openPackage(memorySource(packed.subarray(0, packed.length / 2)), nodePorts)),
    ).toBe('truncated');
  });

  it('of something unknown are unknown', async () => {
    expect((await openPackage(memorySource(await gzip(seeded(1, 9000))), nodePorts)).report.kind).toBe(
      'unknown',
    );
  });

  it('are named sparse by inspect, which reads an image as it stands', async () => {
    expect((await inspectImage(memorySource(await sparse(await stockImage())), nodePorts)).kind).toBe(
      'sparse',
    );
  });
});

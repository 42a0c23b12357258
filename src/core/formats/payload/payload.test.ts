import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf, errorOf } from '../../../../tests/fixtures/expect-error';
import { seeded } from '../../../../tests/fixtures/images';
import { nodePorts } from '../../../platform/node/node-ports';
import { countingSource, memorySource } from '../../bytes/byte-source';
import { concatBytes } from '../../bytes/bytes';
import { sha256Hex } from '../../bytes/digest';
import { memorySink } from '../../bytes/image-sink';
import type { Manifest, Operation, PartitionUpdate } from './layout';
import {
  manifestBytes,
  OPERATION_NAMES,
  parseManifest,
  parsePayloadHeader,
  payloadHeaderBytes,
} from './layout';
import { extractPartition } from './extract';
import { needsOld, unsupportedOf } from './plan-operations';
import { blobBytesOf, findPartition, partitionBytes, readPayload } from './reader';
import type { PartitionContent, PlannedRun } from './writer';
import { writePayload } from './writer';
import { tries } from '../../../../tests/fixtures/soak';

const BLOCK = 4096;
const about = { blockSize: BLOCK, maxTimestamp: 1_790_000_000, securityPatchLevel: '2026-09-05' };

const content: fc.Arbitrary<PartitionContent> = fc
  .array(
    fc.record({
      type: fc.constantFrom<PlannedRun['type']>('REPLACE', 'REPLACE_XZ', 'ZERO', 'DISCARD'),
      blocks: fc.integer({ min: 1, max: 4 }),
      seed: fc.nat(1000),
    }),
    { minLength: 1, maxLength: 6 },
  )
  .map((runs) => {
    let startBlock = 0;
    const planned: PlannedRun[] = [];
    const parts = runs.map(({ type, blocks, seed }) => {
      planned.push({ type, startBlock, blockCount: blocks });
      startBlock += blocks;
      return type === 'ZERO' || type === 'DISCARD'
        ? new Uint8Array(blocks * BLOCK)
        : seeded(seed, blocks * BLOCK);
    });
    return { name: 'init_boot', bytes: concatBytes(parts), runs: planned };
  });

async function small(): Promise<Uint8Array> {
  const runs = [
    { type: 'REPLACE_XZ', startBlock: 0, blockCount: 2 },
    { type: 'REPLACE', startBlock: 2, blockCount: 1 },
    { type: 'ZERO', startBlock: 3, blockCount: 1 },
  ] as const;
  const bytes = concatBytes([seeded(1, 3 * BLOCK), new Uint8Array(BLOCK)]);
  return concatBytes((await writePayload([{ name: 'init_boot', bytes, runs }], about, nodePorts)).parts);
}
/** An operation with nothing in it but its type. */
const bare = (type: Operation['type']): Operation => ({
  type,
  dataOffset: null,
  dataLength: 0,
  srcExtents: [],
  dstExtents: [],
  dataSha256: null,
  srcSha256: null,
});
/** A partition of which nothing is stated. */
const unstated: PartitionUpdate = {
  name: 'init_boot',
  size: null,
  sha256: null,
  oldSize: null,
  oldSha256: null,
  computesTree: false,
  version: null,
  operations: [],
};
const open = (bytes: Uint8Array) => readPayload(memorySource(bytes, 'payload.bin'), nodePorts);
const extract = async (bytes: Uint8Array, name = 'init_boot') =>
  extractPartition(await open(bytes), name, memorySink(name), nodePorts);

/** A payload of one partition with these operations and blobs, hashes left out. */
function handMade(
  operations: readonly Partial<Operation>[],
  blobs: Uint8Array,
  size = 4 * BLOCK,
  change: Partial<Manifest> = {},
): Uint8Array {
  const full = operations.map((operation): Operation => ({
    ...bare('REPLACE'),
    dataOffset: 0,
    dataLength: BLOCK,
    dstExtents: [{ startBlock: 0, blockCount: 1 }],
    ...operation,
  }));
  const partition = { ...unstated, size, sha256: new Uint8Array(32), operations: full };
  const manifest = manifestBytes({
    ...about,
    minorVersion: 0,
    partialUpdate: false,
    partitions: [partition],
    ...change,
  });
  return concatBytes([
    payloadHeaderBytes({ manifestSize: manifest.length, metadataSignatureSize: 0 }),
    manifest,
    blobs,
  ]);
}

describe('payloads', () => {
  it('written are read back: every partition comes out as it went in, verified', async () => {
    await fc.assert(
      fc.asyncProperty(content, async (part) => {
        const payload = concatBytes((await writePayload([part], about, nodePorts)).parts);
        const sink = memorySink('out');
        const result = await extractPartition(await open(payload), 'init_boot', sink, nodePorts);
        expect(sink.bytes).toEqual(part.bytes);
        expect(result).toEqual({
          size: part.bytes.length,
          sha256: await sha256Hex(nodePorts.digests, part.bytes),
          verified: true,
        });
      }),
      tries(15),
    );
  });

  it('state what they are for', async () => {
    const { manifest, metadataBytes, blobStart } = await open(await small());
    expect(manifest).toMatchObject({
      blockSize: BLOCK,
      minorVersion: 0,
      securityPatchLevel: '2026-09-05',
      maxTimestamp: 1_790_000_000,
      partialUpdate: false,
    });
    expect(blobStart).toBe(metadataBytes);
  });

  it('are read only where they must be', async () => {
    const bytes = concatBytes([await small(), new Uint8Array(3_000_000)]);
    const source = countingSource(memorySource(bytes));
    const payload = await readPayload(source, nodePorts);
    await extractPartition(payload, 'init_boot', memorySink('x'), nodePorts);
    expect(source.bytesRead).toBe(payload.blobStart + blobBytesOf(findPartition(payload, 'init_boot')));
  });

  it('with one flipped byte in a blob are refused with the operation and its place', async () => {
    const bytes = await small();
    bytes[bytes.length - 10]! ^= 0x40;
    const error = await errorOf(() => extract(bytes));
    expect(error.code).toBe('bad-hash');
    expect(error.message).toContain('operation 1');
    expect(error.offset).toBeGreaterThan(0);
  });

  it('are refused at every cut', async () => {
    const bytes = await small();
    for (let cut = 0; cut < bytes.length; cut += 61)
      expect(await codeOf(() => extract(bytes.subarray(0, cut))), `cut at ${cut}`).toMatch(
        /truncated|bad-magic|bad-field|bad-hash/,
      );
  });

  it('stop when asked to, and say so', async () => {
    const abort = new AbortController();
    abort.abort();
    const payload = await open(await small());
    expect(
      await codeOf(() =>
        extractPartition(payload, 'init_boot', memorySink('x'), nodePorts, { signal: abort.signal }),
      ),
    ).toBe('cancelled');
  });

  it('tell their progress in bytes of blobs', async () => {
    const seen: number[] = [];
    const payload = await open(await small());
    await extractPartition(payload, 'init_boot', memorySink('x'), nodePorts, {
      onProgress: ({ doneBytes, totalBytes }) => seen.push(doneBytes / totalBytes),
    });
    expect(seen.at(-1)).toBe(1);
    expect([...seen].sort((a, b) => a - b)).toEqual(seen);
  });

  it('have no partition they do not name', async () => {
    const bytes = await small();
    expect(await codeOf(() => extract(bytes, 'boot'))).toBe('not-found');
  });
});

describe('hostile manifests', () => {
  const blobs = seeded(2, 4 * BLOCK);
  it.each([
    ['two operations on one block', [{}, {}], 'overlap'],
    ['a block past the end', [{ dstExtents: [{ startBlock: 4, blockCount: 1 }] }], 'bad-field'],
    ['an extent of no blocks', [{ dstExtents: [{ startBlock: 0, blockCount: 0 }] }], 'bad-field'],
    ['no extent at all', [{ dstExtents: [] }], 'bad-field'],
    ['a blob past the end', [{ dataOffset: 4 * BLOCK }], 'truncated'],
    ['a blob offset of 2^52', [{ dataOffset: 2 ** 52 }], 'truncated'],
    ['a blob of half a gibibyte', [{ dataLength: 2 ** 29 }], 'too-large'],
    ['no data', [{ dataOffset: null }], 'bad-field'],
    ['more data than blocks', [{ dataLength: 2 * BLOCK }], 'corrupt'],
    ['data that is one block short', [{ dstExtents: [{ startBlock: 0, blockCount: 2 }] }], 'corrupt'],
    [
      'data that only begins its last block',
      [{ dataLength: BLOCK + 1, dstExtents: [{ startBlock: 0, blockCount: 2 }] }],
      'bad-hash',
    ],
    ['one byte more data than blocks', [{ dataLength: BLOCK + 1 }], 'corrupt'],
    [
      'an empty extent before a good one',
      [
        {
          dstExtents: [
            { startBlock: 3, blockCount: 0 },
            { startBlock: 0, blockCount: 1 },
          ],
        },
      ],
      'bad-field',
    ],
    ['extents that meet', [{}, { dstExtents: [{ startBlock: 1, blockCount: 1 }] }], 'bad-hash'],
    ['a wrong blob hash', [{ dataSha256: new Uint8Array(32) }], 'bad-hash'],
    ['a wrong hash of the whole', [{}], 'bad-hash'],
    ['an operation that needs the old image', [{ type: 'SOURCE_COPY' as const }], 'not-found'],
    ['xz that is none', [{ type: 'REPLACE_XZ' as const }], 'corrupt'],
    ['bzip2 that is none', [{ type: 'REPLACE_BZ' as const }], 'corrupt'],
  ] as const)('with %s are refused', async (_what, operations, code) =>
    expect(await codeOf(() => extract(handMade(operations, blobs)))).toBe(code),
  );

  it('with a partition of 2^50 bytes are refused before anything is allocated', async () => {
    expect(await codeOf(() => extract(handMade([{}], blobs, 2 ** 50)))).toBe('too-large');
  });

  it('with a partition listed twice are refused', async () => {
    const { manifest } = await open(await small());
    const bytes = manifestBytes({
      ...manifest,
      partitions: [...manifest.partitions, ...manifest.partitions],
    });
    const payload = concatBytes([
      payloadHeaderBytes({ manifestSize: bytes.length, metadataSignatureSize: 0 }),
      bytes,
    ]);
    expect(await codeOf(() => extract(payload))).toBe('duplicate');
  });

  it.each([
    [0, 'bad-field'],
    [511, 'bad-field'],
    [3000, 'bad-field'],
    [2 ** 21, 'bad-field'],
  ] as const)('with blocks of %d bytes are refused', async (blockSize, code) =>
    expect(await codeOf(() => open(handMade([{}], blobs, BLOCK, { blockSize })))).toBe(code),
  );

  it('without a stated size are sized by their last block, however many extents there are', () => {
    const dstExtents = Array.from({ length: 300_000 }, (_, i) => ({ startBlock: i, blockCount: 1 }));
    const operations: Operation[] = [{ ...bare('ZERO'), dstExtents }];
    const partition = { ...unstated, operations };
    expect(partitionBytes(partition, BLOCK)).toBe(300_000 * BLOCK);
    expect(partitionBytes({ ...partition, size: 5 }, BLOCK)).toBe(5);
  });

  it('tell from the manifest alone what can’t be done here and what needs the old image', () => {
    const of = (...types: Operation['type'][]): PartitionUpdate => ({
      ...unstated,
      operations: types.map(bare),
    });
    expect(unsupportedOf(of('ZERO', 'PUFFDIFF', 'PUFFDIFF', 'SOURCE_COPY', 'ZUCCHINI'))).toEqual([
      'PUFFDIFF',
      'ZUCCHINI',
    ]);
    expect(unsupportedOf(of('SOURCE_COPY', 'SOURCE_BSDIFF', 'BROTLI_BSDIFF', 'ZERO', 'REPLACE_XZ'))).toEqual(
      [],
    );
    expect(unsupportedOf(of('TYPE_15'))).toEqual(['TYPE_15']);
    expect(unsupportedOf({ ...of('SOURCE_COPY'), computesTree: true })).toHaveLength(1);
    expect(unsupportedOf({ ...of('REPLACE'), computesTree: true })).toEqual([]);
    expect([
      needsOld(of('REPLACE', 'ZERO')),
      needsOld(of('ZERO', 'PUFFDIFF')),
      needsOld(of('SOURCE_COPY')),
    ]).toEqual([false, true, true]);
  });

  it.each(OPERATION_NAMES)('keep an operation of type %s by its name', async (type) => {
    const operation = { ...bare(type), dstExtents: [{ startBlock: 0, blockCount: 1 }] };
    const bytes = manifestBytes({
      ...about,
      minorVersion: 0,
      partialUpdate: false,
      partitions: [{ ...unstated, size: BLOCK, operations: [operation] }],
    });
    expect(parseManifest(bytes, 'x').partitions[0]!.operations[0]!.type).toBe(type);
  });
  it('number their operations as the format does', () =>
    expect(Object.fromEntries(OPERATION_NAMES.map((name, number) => [name, number]))).toEqual({
      REPLACE: 0,
      REPLACE_BZ: 1,
      MOVE: 2,
      BSDIFF: 3,
      SOURCE_COPY: 4,
      SOURCE_BSDIFF: 5,
      ZERO: 6,
      DISCARD: 7,
      REPLACE_XZ: 8,
      PUFFDIFF: 9,
      BROTLI_BSDIFF: 10,
      ZUCCHINI: 11,
      LZ4DIFF_BSDIFF: 12,
      LZ4DIFF_PUFFDIFF: 13,
      REPLACE_ZSTD: 14,
    }));

  it('with an operation of a type from the future can still give the partitions without it', async () => {
    const later = {
      ...unstated,
      name: 'later',
      size: BLOCK,
      operations: [{ ...bare('TYPE_77'), dstExtents: [{ startBlock: 0, blockCount: 1 }] }],
    };
    const zeros = {
      ...unstated,
      size: BLOCK,
      operations: [{ ...bare('ZERO'), dstExtents: [{ startBlock: 0, blockCount: 1 }] }],
    };
    const payload = handMade([], new Uint8Array(0), BLOCK, { partitions: [later, zeros] });
    expect((await extract(payload)).size).toBe(BLOCK);
    expect(await codeOf(() => extract(payload, 'later'))).toBe('unsupported');
  });

  it('survive any change of any byte', async () => {
    const base = await small();
    const { metadataBytes } = await open(base);
    await fc.assert(
      fc.asyncProperty(fc.nat(metadataBytes - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = base.slice();
        bytes[at] = value;
        await answersProperly(() => extract(bytes));
      }),
      tries(300),
    );
  });

  it('survive any bytes as a manifest', async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 200 }), (bytes) =>
        answersProperly(() => parseManifest(bytes, 'x')),
      ),
      tries(500),
    );
  });
});

describe('payload headers', () => {
  it.each([
    ['a later version', (view: DataView) => view.setBigUint64(4, 3n), 'unsupported'],
    ['a manifest of 2^60 bytes', (view: DataView) => view.setBigUint64(12, 1n << 60n), 'too-large'],
    ['an empty manifest', (view: DataView) => view.setBigUint64(12, 0n), 'truncated'],
    ['another magic', (view: DataView) => view.setUint8(0, 0), 'bad-magic'],
  ] as const)('with %s are refused', async (_what, change, code) => {
    const bytes = payloadHeaderBytes({ manifestSize: 10, metadataSignatureSize: 0 });
    change(new DataView(bytes.buffer));
    expect(await codeOf(() => parsePayloadHeader(bytes, 'x'))).toBe(code);
  });
});

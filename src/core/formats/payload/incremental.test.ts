import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { brotliCompressSync, constants } from 'node:zlib';
import { createHash } from 'node:crypto';
import { answersProperly, codeOf, errorOf } from '../../../../tests/fixtures/expect-error';
import { seeded } from '../../../../tests/fixtures/images';
import { nodePorts } from '../../../platform/node/node-ports';
import { memorySource } from '../../bytes/byte-source';
import { concatBytes } from '../../bytes/bytes';
import { memorySink } from '../../bytes/image-sink';
import { applyBinaryPatch } from '../binary-patch/apply-patch';
import { writeBinaryPatch } from '../binary-patch/write-patch';
import { extractPartition } from './extract';
import type { Operation, OperationType } from './layout';
import { manifestBytes, payloadHeaderBytes } from './layout';
import { readPayload } from './reader';
import { writeIncrementalPayload } from './write-incremental';
import { tries } from '../../../../tests/fixtures/soak';

const BLOCK = 4096;
const brotli = {
  packing: 'brotli' as const,
  pack: (bytes: Uint8Array) =>
    new Uint8Array(brotliCompressSync(bytes, { params: { [constants.BROTLI_PARAM_QUALITY]: 4 } })),
};
const sha = (bytes: Uint8Array) => new Uint8Array(createHash('sha256').update(bytes).digest());
const about = { blockSize: BLOCK, maxTimestamp: 1_760_000_000, securityPatchLevel: '2026-11-05' };
const applyPatch = (old: Uint8Array, patch: Uint8Array, size: number) =>
  applyBinaryPatch(old, patch, size, nodePorts.codecs);

async function make(payload: Uint8Array, old: Uint8Array | null, name = 'init_boot'): Promise<Uint8Array> {
  const sink = memorySink(name);
  const source = old && { image: memorySource(old, 'old image'), applyPatch };
  await extractPartition(
    await readPayload(memorySource(payload, 'payload.bin'), nodePorts),
    name,
    sink,
    nodePorts,
    {},
    source,
  );
  return sink.bytes;
}

const write = async (old: Uint8Array, fresh: Uint8Array) =>
  concatBytes(
    (
      await writeIncrementalPayload(
        [{ name: 'init_boot', old, fresh, runBlocks: 2 }],
        about,
        (a, b) => writeBinaryPatch(a, b, brotli),
        nodePorts,
      )
    ).parts,
  );

/** Old and new images of which some blocks are the same, moved, zero, slightly or wholly changed. */
const images = fc
  .record({
    seed: fc.integer({ min: 1, max: 1000 }),
    kinds: fc.array(fc.constantFrom('same', 'near', 'new', 'zero', 'moved'), { minLength: 1, maxLength: 12 }),
  })
  .map(({ seed, kinds }) => {
    const old = seeded(seed, kinds.length * BLOCK);
    const fresh = concatBytes(
      kinds.map((kind, i) => {
        const before = old.slice(i * BLOCK, (i + 1) * BLOCK);
        if (kind === 'near') before[17]! ^= 0x55;
        if (kind === 'moved') return old.slice((kinds.length - 1 - i) * BLOCK, (kinds.length - i) * BLOCK);
        return kind === 'zero'
          ? new Uint8Array(BLOCK)
          : kind === 'new'
            ? seeded(seed + 7 + i, BLOCK)
            : before;
      }),
    );
    return { old, fresh };
  });

describe('incremental payloads', () => {
  it('written are read back: the new image comes of the old one, whatever changed', async () => {
    await fc.assert(
      fc.asyncProperty(images, async ({ old, fresh }) => {
        expect(await make(await write(old, fresh), old)).toEqual(fresh);
      }),
      tries(40),
    );
  });

  it('use every kind of operation', async () => {
    const old = seeded(3, 8 * BLOCK);
    const near = old.slice(0, 2 * BLOCK);
    near[5]! ^= 1;
    const fresh = concatBytes([
      near,
      old.slice(2 * BLOCK, 4 * BLOCK),
      new Uint8Array(2 * BLOCK),
      seeded(9, 2 * BLOCK),
    ]);
    const payload = await readPayload(memorySource(await write(old, fresh), 'payload.bin'), nodePorts);
    const types = payload.manifest.partitions[0]!.operations.map((operation) => operation.type);
    expect(types).toEqual(['BROTLI_BSDIFF', 'SOURCE_COPY', 'ZERO', 'REPLACE_XZ']);
  });

  const old = seeded(4, 4 * BLOCK);
  const fresh = (() => {
    const bytes = old.slice();
    bytes[BLOCK + 3]! ^= 0xff;
    return bytes;
  })();

  it('say that the old image is needed, and which', async () => {
    const payload = await write(old, fresh);
    expect(await codeOf(() => make(payload, null))).toBe('not-found');
    const other = old.slice();
    other[0]! ^= 1;
    const error = await errorOf(() => make(payload, other));
    expect(error.code).toBe('wrong-source');
    expect(error.details?.['expected']).toBe(Buffer.from(sha(old)).toString('hex'));
    expect(await codeOf(() => make(payload, old.slice(0, -1)))).toBe('wrong-source');
  });

  /** An incremental payload of one operation, hashes of the partition left out. */
  function handMade(
    operation: Partial<Operation> & { type: OperationType },
    blob: Uint8Array,
    hashes: { readonly fresh?: Uint8Array } = {},
  ): Uint8Array {
    const extents = [{ startBlock: 0, blockCount: 4 }];
    const full: Operation = {
      dataOffset: blob.length > 0 ? 0 : null,
      dataLength: blob.length,
      srcExtents: extents,
      dstExtents: extents,
      dataSha256: null,
      srcSha256: null,
      ...operation,
    };
    const partition = {
      name: 'init_boot',
      size: 4 * BLOCK,
      sha256: hashes.fresh ?? null,
      oldSize: null,
      oldSha256: null,
      computesTree: false,
      version: null,
      operations: [full],
    };
    const manifest = manifestBytes({
      ...about,
      minorVersion: 6,
      partialUpdate: false,
      partitions: [partition],
    });
    return concatBytes([
      payloadHeaderBytes({ manifestSize: manifest.length, metadataSignatureSize: 0 }),
      manifest,
      blob,
    ]);
  }

  it.each([
    [
      'source blocks past the old image',
      { type: 'SOURCE_COPY', srcExtents: [{ startBlock: 2, blockCount: 4 }] },
      'bad-field',
    ],
    [
      'a copy that is shorter than where it goes',
      { type: 'SOURCE_COPY', srcExtents: [{ startBlock: 0, blockCount: 3 }] },
      'bad-field',
    ],
    ['another source hash', { type: 'SOURCE_COPY', srcSha256: new Uint8Array(32) }, 'wrong-source'],
    ['a patch without data', { type: 'SOURCE_BSDIFF' }, 'bad-field'],
    ['a type that can’t be done', { type: 'PUFFDIFF' }, 'unsupported'],
    ['the in-place types of old', { type: 'MOVE' }, 'unsupported'],
  ] as const)('with %s are refused', async (_what, operation, code) =>
    expect(await codeOf(() => make(handMade(operation, new Uint8Array(0)), old))).toBe(code),
  );

  it('with a patch that makes something else are refused by the image’s own hash', async () => {
    const patch = writeBinaryPatch(old, seeded(8, old.length), brotli);
    expect(
      await codeOf(() => make(handMade({ type: 'BROTLI_BSDIFF' }, patch, { fresh: sha(fresh) }), old)),
    ).toBe('bad-hash');
    expect(await make(handMade({ type: 'BROTLI_BSDIFF' }, patch), old)).toEqual(seeded(8, old.length));
  });

  it('survive any change of any byte', async () => {
    const base = await write(old, fresh);
    await fc.assert(
      fc.asyncProperty(fc.nat(base.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = base.slice();
        bytes[at] = value;
        await answersProperly(() => make(bytes, old));
      }),
      tries(200),
    );
  });
});

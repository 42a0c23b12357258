import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { toHex } from '@/core/bytes/bytes';
import type { DigestName } from '@/core/bytes/digest';
import { digestBytes, digestOfSource, sha256OfSource } from '@/core/bytes/digest';
import { memorySource } from '@/core/bytes/byte-source';
import { memorySink } from '@/core/bytes/image-sink';
import { readKit } from '@/core/kits/read-kit';
import { openPackage } from '@/core/packages/open-package';
import { patchImage } from '@/core/patch/patch-image';
import { nodeDigests } from '../node/node-digests';
import { nodePorts } from '../node/node-ports';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { kitZip, seeded, stockImage } from '../../../tests/fixtures/images';
import { blobSource } from './blob-source';
import { browserDigests } from './browser-digests';
import { browserPorts } from './browser-ports';
import { tries } from '../../../tests/fixtures/soak';

/*
 * What runs in a browser's worker, run here: the same calls over the same bytes must give the same results as
 * Node's.
 */

const NAMES: readonly DigestName[] = ['sha256', 'sha1', 'md5', 'sha512'];

describe('digests of the browser', () => {
  it.each(NAMES)('%s are Node’s, however the bytes were cut', async (name) => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.uint8Array({ maxLength: 300 }), { maxLength: 5 }), async (parts) => {
        expect(toHex(await digestBytes(browserDigests, name, ...parts))).toBe(
          toHex(await digestBytes(nodeDigests, name, ...parts)),
        );
      }),
      tries(30),
    );
  });
  it.each(NAMES)(
    '%s of much that lies in memory is Node’s, in parts, in a source, behind other bytes',
    async (name) => {
      // on both sides of what is hashed as one
      for (const length of [65_535, 65_536, 300_001]) {
        const bytes = seeded(length, length);
        const [head, tail] = [bytes.subarray(0, 1000), bytes.subarray(1000)];
        const expected = toHex(await digestBytes(nodeDigests, name, bytes));
        const got = [
          toHex(await digestBytes(browserDigests, name, bytes)),
          toHex(await digestBytes(browserDigests, name, head, tail)),
          await digestOfSource(browserDigests, name, memorySource(bytes)),
          await digestOfSource(browserDigests, name, memorySource(tail), undefined, undefined, head),
          await digestOfSource(nodeDigests, name, memorySource(tail), undefined, undefined, head),
        ];
        expect(got).toEqual(got.map(() => expected));
      }
    },
  );
  it('do not disturb each other', async () => {
    const [a, b] = [await browserDigests.create('sha256'), await browserDigests.create('sha256')];
    a.update(seeded(1, 100));
    b.update(seeded(2, 100));
    a.update(seeded(3, 100));
    expect(toHex(a.finish())).toBe(
      toHex(await digestBytes(nodeDigests, 'sha256', seeded(1, 100), seeded(3, 100))),
    );
    expect(toHex(b.finish())).toBe(toHex(await digestBytes(nodeDigests, 'sha256', seeded(2, 100))));
  });
});

describe('files of the browser', () => {
  const bytes = seeded(4, 10_000);
  const source = blobSource(new Blob([bytes]), 'file.zip');
  it('give the ranges asked for', async () => {
    expect(source.size).toBe(10_000);
    expect(await source.read(100, 5000)).toEqual(bytes.slice(100, 5000));
    expect(await sha256OfSource(browserDigests, source)).toBe(
      toHex(await digestBytes(nodeDigests, 'sha256', bytes)),
    );
  });
  it('refuse ranges past their end, and stop when asked to', async () => {
    expect(await codeOf(() => source.read(0, 10_001))).toBe('truncated');
    const abort = new AbortController();
    abort.abort();
    expect(await codeOf(() => source.read(0, 10, abort.signal))).toBe('cancelled');
  });
  it('that went away say so', async () => {
    const gone = {
      size: 100,
      slice: () => ({ arrayBuffer: () => Promise.reject(new Error('NotReadableError')) }),
    } as unknown as Blob;
    expect(await codeOf(() => blobSource(gone, 'gone').read(0, 10))).toBe('io');
  });
});

describe('the same work on both sides', () => {
  it.each(['lz4-legacy', 'gzip'] as const)('patches a %s ramdisk to the same bytes', async (codec) => {
    const stock = new Blob([await stockImage({ codec })]);
    const kitFile = new Blob([await kitZip()]);
    const result = async (ports: typeof nodePorts) => {
      const { kit } = await readKit(blobSource(kitFile, 'kit'), ports);
      return patchImage(blobSource(stock, 'stock'), kit, ports);
    };
    const [browser, node] = [await result(browserPorts), await result(nodePorts)];
    expect(browser.bytes).toEqual(node.bytes);
    expect(browser.proof).toEqual(node.proof);
  });
  it('takes the same image out of the same package', async () => {
    const file = new Blob([await browserPorts.codecs.encode('gzip', await stockImage())]);
    const take = async (ports: typeof nodePorts) => {
      const sink = memorySink('out');
      const opened = await openPackage(blobSource(file, 'image.gz'), ports);
      return { report: opened.report, taken: await opened.take('init_boot', sink), bytes: sink.bytes };
    };
    expect(await take(browserPorts)).toEqual(await take(nodePorts));
  });
});

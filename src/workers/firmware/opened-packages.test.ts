import { describe, expect, it } from 'vitest';
import { nodePorts } from '@/platform/node/node-ports';
import { blobSource } from '@/platform/browser/blob-source';
import { stockImage } from '../../../tests/fixtures/images';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { OpenedPackages } from './opened-packages';

/* Packages that the firmware room has open. */

/** A shelf, and what is told at each read of a file. */
function shelf() {
  const reads: string[] = [];
  const told = { atRead: (_name: string, _nth: number) => {} };
  const packages = new OpenedPackages<File>(nodePorts, (file) => {
    const parent = blobSource(file, file.name);
    return {
      name: file.name,
      size: file.size,
      async read(start, end) {
        const bytes = await parent.read(start, end);
        reads.push(file.name);
        told.atRead(file.name, reads.filter((name) => name === file.name).length);
        return bytes;
      },
    };
  });
  return { packages, reads, told };
}

const imageFile = async (name: string) => new File([await stockImage({})], name, { lastModified: 1 });

describe('packages that are open', () => {
  it('are opened once, to say what they are and to take out of', async () => {
    const { packages, reads } = shelf();
    const file = await imageFile('one.img');
    const called = await packages.once([file], {});
    const before = reads.length;
    expect(before).toBeGreaterThan(0);
    expect(packages.current).toBeNull();
    const chosen = await packages.choose([file], { signal: new AbortController().signal });
    expect(chosen).toBe(called);
    expect(packages.current).toBe(called);
    expect(reads).toHaveLength(before);
  });

  it('one that is called off never takes the place of the one chosen after it, at whichever read it ends', async () => {
    const file = await imageFile('older.img');
    const counted = shelf();
    await counted.packages.once([file], {});
    const all = counted.reads.length;
    for (let nth = 1; nth <= all; nth++) {
      const { packages, told } = shelf();
      const newer = await packages.once([await imageFile('newer.img')], {});
      const calledOff = new AbortController();
      let after: Promise<unknown> = Promise.resolve();
      told.atRead = (name, read) => {
        if (name !== 'older.img' || read !== nth) return;
        calledOff.abort();
        after = packages.choose([newerFile], { signal: new AbortController().signal });
      };
      const newerFile = await imageFile('newer.img');
      expect(await codeOf(() => packages.choose([file], { signal: calledOff.signal }))).toBe('cancelled');
      await after;
      expect(packages.current).toBe(newer);
    }
  });
});

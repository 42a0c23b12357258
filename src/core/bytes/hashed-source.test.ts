import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { seeded } from '../../../tests/fixtures/images';
import { nodeDigests } from '../../platform/node/node-digests';
import { memorySource } from './byte-source';
import { sha256Hex } from './digest';
import { hashedSource } from './hashed-source';

const bytes = seeded(4, 1000);
const begin = async (content = bytes) =>
  hashedSource(memorySource(content), { sha256: await sha256Hex(nodeDigests, bytes), digests: nodeDigests });

describe('bytes that are hashed as they are read', () => {
  it('are proved once all were read in their order', async () => {
    const source = await begin();
    expect(await source.read(0, 600)).toEqual(bytes.slice(0, 600));
    await source.read(600, 1000);
    source.prove();
  });
  it.each([
    ['another byte', [[0, 1000]], bytes.map((byte, i) => (i === 999 ? byte ^ 1 : byte))],
    ['the last byte left out', [[0, 999]], bytes],
    [
      'a gap',
      [
        [0, 400],
        [500, 1000],
      ],
      bytes,
    ],
    [
      'another order',
      [
        [500, 1000],
        [0, 500],
      ],
      bytes,
    ],
    [
      'a stretch read twice',
      [
        [0, 500],
        [0, 500],
        [500, 1000],
      ],
      bytes,
    ],
    ['nothing read', [], bytes],
  ] as const)('are refused for %s', async (_what, ranges, content) => {
    const source = await begin(Uint8Array.from(content));
    for (const [from, to] of ranges) await source.read(from, to);
    expect(await codeOf(() => source.prove())).toBe('bad-hash');
  });
});

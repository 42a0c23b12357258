import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersProperly, codeOf } from '../../../tests/fixtures/expect-error';
import { nodePorts } from '../../platform/node/node-ports';
import { concatBytes } from '../bytes/bytes';
import { tries } from '../../../tests/fixtures/soak';

const { codecs } = nodePorts;
/** "trail club trail club trail club\n" by another program: linked blocks, content size and checksum. */
const FRAME = new Uint8Array(
  Buffer.from('BCJNGGxAIQAAAAAAAADRFAAAAL10cmFpbCBjbHViIAsAUGNsdWIKAAAAAEJtCXw=', 'base64'),
);
const decode = (bytes: Uint8Array, limit = 1000) => codecs.decode('lz4-frame', bytes, limit);

describe('lz4 frames', () => {
  it('made by another program are read, and say how much they took', async () => {
    const { bytes, consumed } = await decode(concatBytes([FRAME, new Uint8Array(9)]));
    expect(new TextDecoder().decode(bytes)).toBe('trail club trail club trail club\n');
    expect(consumed).toBe(FRAME.length);
  });

  it('stop at the output limit', async () => expect(await codeOf(() => decode(FRAME, 20))).toBe('too-large'));

  it('are refused at every cut', async () => {
    for (let cut = 4; cut < FRAME.length; cut += 1)
      expect(await codeOf(() => decode(FRAME.subarray(0, cut))), `cut at ${cut}`).toMatch(
        /truncated|corrupt/,
      );
  });

  it.each([
    ['the descriptor', 5],
    ['the stated size', 6],
    ['the descriptor’s own sum', 14],
    ['a block', 25],
    ['the sum of the content', FRAME.length - 1],
  ])('notice one changed bit in %s', async (_what, at) => {
    const bytes = FRAME.slice();
    bytes[at]! ^= 4;
    expect(await codeOf(() => decode(bytes))).toMatch(/corrupt|unsupported|truncated/);
  });

  it('survive any change', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(FRAME.length - 1), fc.integer({ min: 0, max: 255 }), async (at, value) => {
        const bytes = FRAME.slice();
        bytes[at] = value;
        await answersProperly(() => decode(bytes));
      }),
      tries(300),
    );
  });
});

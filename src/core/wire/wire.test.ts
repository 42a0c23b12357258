import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { utf8 } from '../../../tests/fixtures/images';
import { concatBytes } from '../bytes/bytes';
import { EternoError } from '../errors';
import { ByteQueue } from './byte-queue';
import {
  answerBytes,
  commandBytes,
  frame,
  hexLength,
  parseAnswer,
  parseHexLength,
  readFrame,
} from './messages';
import { tries } from '../../../tests/fixtures/soak';

describe('frames', () => {
  it('arrive whole, however they were cut on the way', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.uint8Array({ maxLength: 50 }), { maxLength: 6 }),
        fc.integer({ min: 1, max: 9 }),
        async (messages, cut) => {
          const queue = new ByteQueue();
          const all = concatBytes(messages.map(frame));
          const reading = (async () => {
            const out: Uint8Array[] = [];
            for (let i = 0; i < messages.length; i += 1) out.push(await readFrame(queue, 100));
            return out;
          })();
          for (let at = 0; at < all.length; at += cut) {
            queue.push(all.slice(at, at + cut));
            await Promise.resolve();
          }
          expect((await reading).map((m) => [...m])).toEqual(messages.map((m) => [...m]));
        },
      ),
      tries(60),
    );
  });
  it('longer than allowed are refused before they arrive', async () => {
    const queue = new ByteQueue();
    queue.push(frame(new Uint8Array(200)));
    expect(await codeOf(() => readFrame(queue, 100))).toBe('too-large');
    const huge = new ByteQueue();
    huge.push(new Uint8Array(8).fill(0xff));
    expect(await codeOf(() => readFrame(huge, 100))).toBe('too-large');
  });
  it('that never come end with what ended the line', async () => {
    const queue = new ByteQueue();
    const reading = readFrame(queue, 100);
    queue.push(frame(new Uint8Array(20)).subarray(0, 12));
    queue.end(new EternoError('link-lost', 'gone'));
    expect(await codeOf(() => reading)).toBe('link-lost');
  });
});

describe('lines', () => {
  it('are taken one by one, bytes after them left alone', async () => {
    const queue = new ByteQueue();
    queue.push(utf8('{"a":1}\n{"b"'));
    queue.push(utf8(':2}\nrest'));
    expect(await queue.line(100)).toBe('{"a":1}');
    expect(await queue.line(100)).toBe('{"b":2}');
    expect([...(await queue.take(4))]).toEqual([...utf8('rest')]);
  });
  it('without an end are refused', async () => {
    const queue = new ByteQueue();
    queue.push(new Uint8Array(200).fill(65));
    expect(await codeOf(() => queue.line(100))).toBe('too-large');
  });
});

describe('messages', () => {
  it.each(['OKAY', 'FAIL', 'INFO', 'TEXT', 'DATA'] as const)('%s goes there and back', (kind) =>
    expect(parseAnswer(answerBytes(kind, 'some text'))).toEqual({ kind, text: 'some text' }),
  );
  it.each(['', 'OKA', 'okay', 'WHAT is this'])('%j is no answer', async (text) =>
    expect(await codeOf(() => parseAnswer(utf8(text)))).toBe('bad-field'),
  );
  it.each(['', 'a'.repeat(4097), 'flash:ä', 'a\nb'])('a command can’t be %j', async (text) =>
    expect(await codeOf(() => commandBytes(text))).toBe('bad-field'),
  );
  it('lengths are eight hex digits', async () => {
    expect(hexLength(0x800000)).toBe('00800000');
    expect(parseHexLength('00800000')).toBe(0x800000);
    for (const bad of ['800000', '0080000g', '', '-0800000', '008000000'])
      expect(await codeOf(() => parseHexLength(bad))).toBe('bad-field');
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codeOf } from '../../../tests/fixtures/expect-error';
import { tries } from '../../../tests/fixtures/soak';
import { readCode, readToken, TOKEN_LIMITS } from './token';

describe('a token', () => {
  const PARTS = ['4A5BC0DE11223344', '9F00FEEDBEEF5566', 'A1B2C3D4E5F60718'];
  it.each<[string, string]>([
    ['numbered, behind prefixes', PARTS.map((one, i) => `(bootloader) unlock-token:${i}: ${one}`).join('\n')],
    [
      'counted from 1, in another order',
      [2, 1, 0].map((i) => `unlock-token:${i + 1}:${PARTS[i]}`).join('\r\n'),
    ],
    [
      'bare, between other words',
      `INFO Unlock data:\n${PARTS.map((one) => `(bootloader)  ${one} `).join('\n')}\nOKAY [0.01s]\nall: Done!`,
    ],
    [
      'among other variables',
      `product:hill\nserialno:HX77\n${PARTS.map((one, i) => `unlock-token:${i}:${one}`).join('\n')}\nunlocked:no`,
    ],
    ['in one line', `unlock-token: ${PARTS.join('')}`],
  ])('%s, is joined', (_how, text) => expect(readToken(text).token).toBe(PARTS.join('')));
  it.each<[string, string, string]>([
    ['nothing', 'product:hill\nunlocked:no', 'not-found'],
    ['a line left out', `unlock-token:0:${PARTS[0]}\nunlock-token:2:${PARTS[2]}`, 'truncated'],
    ['its first line left out', `unlock-token:2:${PARTS[2]}\nunlock-token:3:${PARTS[1]}`, 'truncated'],
    ['a line twice', `unlock-token:0:${PARTS[0]}\nunlock-token:0:${PARTS[0]}`, 'duplicate'],
    ['a sentence', 'please give me the code', 'bad-field'],
    ['too short', 'A'.repeat(TOKEN_LIMITS.least - 1), 'truncated'],
    ['too long', 'A'.repeat(TOKEN_LIMITS.most + 1), 'too-large'],
  ])('%s is refused', async (_what, text, code) => expect(await codeOf(() => readToken(text))).toBe(code));
  it('of the most and least characters is one', () => {
    for (const length of [TOKEN_LIMITS.least, TOKEN_LIMITS.most])
      expect(readToken('A'.repeat(length)).token.length).toBe(length);
  });
  it('is found however it is cut into lines', () =>
    fc.assert(
      fc.property(
        fc.stringMatching(/^[A-F0-9]{16,200}$/),
        fc.integer({ min: 4, max: 40 }),
        (token, width) => {
          const lines = token.match(new RegExp(`.{1,${width}}`, 'g'))!;
          const text = lines.map((line, i) => `(bootloader) unlock-token:${i}: ${line}`).join('\n');
          expect(readToken(text)).toEqual({ token, lines: lines.length });
        },
      ),
      tries(300),
    ));
});

describe('a code', () => {
  const against = { token: 'TOKEN12345', serial: 'HX77PRIVATE42', form: null };
  it('loses the spaces round it and nothing else', () =>
    expect(readCode('  HILL-4711-KESTREL\n', against)).toBe('HILL-4711-KESTREL'));
  it.each([
    ['', 'nothing'],
    ['abc', 'too short'],
    ['HILL 4711', 'in two parts'],
    ['HILL\n4711', 'on two lines'],
    ['a'.repeat(257), 'too long'],
    ['HILL–4711', 'with another dash'],
    ['TOKEN12345', 'the token'],
    ['hx77private42', 'the serial'],
  ])('%j is refused: %s', async (text) =>
    expect(await codeOf(() => readCode(text, against))).toBe('bad-field'),
  );
  it.each([
    ['AAAA-0000', 'HILL-4711', true],
    ['AAAA-0000', 'HILL-47B1', false],
    ['AAAA-0000', 'HILL-471', false],
    ['????-00', 'H1LL-47', true],
    ['x??', 'y12', false],
  ])('of the form %s, %s: %s', async (form, code, holds) =>
    expect(await codeOf(() => readCode(`${code}`, { ...against, form })).catch(() => null)).toBe(
      holds ? null : 'bad-field',
    ),
  );
  it('is in no message about it', () => {
    const secret = 'SECRET CODE 42';
    expect(() => readCode(secret, against)).toThrow(
      expect.not.objectContaining({ message: expect.stringContaining('SECRET') as string }) as Error,
    );
  });
});

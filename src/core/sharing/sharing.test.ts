import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { BLANK, blankPrivate } from './blank-private';
import { passportText } from './passport-text';
import { tries } from '../../../tests/fixtures/soak';

describe('blankPrivate', () => {
  it('takes out a value with spaces in it however it is spaced, from a text full of spaces too', () => {
    expect(blankPrivate('one AB  CD two A B\nCD', ['AB CD'])).toBe(`one ${BLANK} two ${BLANK}`);
    const spaces = ' '.repeat(50_000);
    expect(blankPrivate(`A${spaces}C`, [`A${' '.repeat(12)}B`])).toBe(`A${spaces}C`);
  });
  it.each([
    ['serial NG7Q2K41TR here', ['NG7Q2K41TR'], `serial ${BLANK} here`],
    ['in lower case ng7q2k41tr', ['NG7Q2K41TR'], `in lower case ${BLANK}`],
    ['broken NG7Q2\n K41TR up', ['NG7Q2K41TR'], `broken ${BLANK} up`],
    ['with signs a+b(c)* here', ['a+b(c)*'], `with signs ${BLANK} here`],
    ['a longer one first: ABCDEF and ABCD', ['ABCD', 'ABCDEF'], `a longer one first: ${BLANK} and ${BLANK}`],
    [
      'short ones where they stand alone: ab, cab and abc',
      ['ab'],
      `short ones where they stand alone: ${BLANK}, cab and abc`,
    ],
    ['nothing to blank', ['', '   '], 'nothing to blank'],
  ])('%j', (text, values, expected) => expect(blankPrivate(text, values)).toBe(expected));

  it('leaves no value behind, wherever it stands', () => {
    const value = fc.stringMatching(/^[A-Za-z0-9+/.-]{4,20}$/);
    fc.assert(
      fc.property(fc.string(), value, fc.string(), (before, secret, after) => {
        fc.pre(!BLANK.toLowerCase().includes(secret.toLowerCase()));
        expect(blankPrivate(`${before}${secret}${after}`, [secret]).toLowerCase()).not.toContain(
          secret.toLowerCase(),
        );
      }),
      tries(),
    );
  });
});

it('a passport says what is known and nothing private, even where a name holds it', () => {
  const text = passportText(
    {
      name: 'North SERIAL42',
      model: 'Hill | 2',
      root: 'root: lost',
      facts: [
        {
          group: 'Build',
          label: 'Build number',
          value: 'HC1',
          said: 'the running system, pasted',
          contradicted: true,
        },
      ],
      slots: [{ slot: 'a', partition: 'init_boot', holds: 'stock HC1', verdict: 'read' }],
      seats: ['Root sits in init_boot.'],
    },
    ['SERIAL42'],
  );
  expect(text).toContain('# North [private]');
  expect(text).toContain('Hill \\| 2');
  expect(text).toContain('| Build number | HC1 (contradicted) | the running system, pasted |');
  expect(text).toContain('| init_boot | a | stock HC1 | read |');
  expect(text).not.toContain('SERIAL42');
});

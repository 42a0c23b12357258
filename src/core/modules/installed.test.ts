import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { installedText, parseInstalled } from './installed';
import { tries } from '../../../tests/fixtures/soak';

const id = fc.stringMatching(/^[A-Za-z][A-Za-z0-9._-]{0,20}$/).filter((one) => one !== 'none');
const version = fc.option(fc.stringMatching(/^[0-9a-z][0-9a-z.-]{0,8}( [a-z]{1,5})?$/));

describe('modules as a handset tells of them', () => {
  it.each([
    [null, []],
    ['', []],
    ['none', []],
    ['lantern', [['lantern', null]]],
    [
      ' lantern 2.1 ,trail-fonts,  hosts 3.0 beta',
      [
        ['lantern', '2.1'],
        ['trail-fonts', null],
        ['hosts', '3.0 beta'],
      ],
    ],
    ['lantern 2.1, lantern 2.0', [['lantern', '2.1']]],
    [', ,', []],
  ])('%j', (text, expected) =>
    expect(parseInstalled(text).map((one) => [one.id, one.version])).toEqual(expected),
  );

  it('are read as they were written', () =>
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.record({ id, version }), { selector: (one) => one.id, maxLength: 12 }),
        (modules) => {
          expect(parseInstalled(installedText(modules))).toEqual(modules);
        },
      ),
      tries(),
    ));
});

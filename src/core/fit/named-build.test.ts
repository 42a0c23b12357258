import { describe, expect, it } from 'vitest';
import { otherBuildNamed } from './named-build';

/* What a file's name says of its build, whatever a maker's build numbers look like. */

describe('the build that a name speaks of', () => {
  it.each([
    ['init_boot-HC1.261005.001.img', 'HC1.260905.007', 'HC1.261005.001'],
    ['init_boot-HC1.260905.007.img', 'HC1.260905.007', null],
    ['INIT_BOOT-hc1.260905.007.img', 'HC1.260905.007', null],
    ['hill-HC1.260805.001-HC1.260905.007.zip', 'HC1.260905.007', null],
    ['hill-HC1.260805.001-HC1.260905.007.zip', 'HC1.261005.001', 'HC1.260805.001'],
    ['HC1.260905.007.A1.zip', 'HC1.260905.007', null],
    ['T510BXU3AWK1_home.tar', 'T510BXU3AWL2', 'T510BXU3AWK1'],
    ['xT510BXU3AWK1.tar', 'T510BXU3AWL2', null],
    ['boot.img', 'HC1.260905.007', null],
    ['tern-14.1.zip', 'tern-14.2', 'tern-14.1'],
    ['a-1.zip', 'a-2', null],
    ['longword', 'anyother', null],
    ['22.11.07 (1).zip', '22.11.05', '22.11.07'],
  ])('%s, its content of %s: %s', (name, buildId, other) =>
    expect(otherBuildNamed(name, buildId)).toBe(other),
  );
  it('is not looked for in what no build number looks like', () =>
    expect(otherBuildNamed('((((((((', '((((((((1')).toBeNull());
});

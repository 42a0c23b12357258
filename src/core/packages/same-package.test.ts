import { describe, expect, it } from 'vitest';
import type { PackageBuild, PackageReport } from './package-report';
import { plainImage, UNKNOWN_BUILD } from './package-report';
import { isSamePackage } from './same-package';

/* Whether a package that was sent once more is the one that was opened before. */

const report = (
  images: PackageReport['images'],
  build: Partial<PackageBuild> = {},
  incremental = false,
): PackageReport => ({
  kind: 'update-zip',
  incremental,
  build: { ...UNKNOWN_BUILD, fingerprint: 'one', ...build },
  images,
  evidence: [],
  warnings: [],
  writes: [],
});
const boot = (change: Parameters<typeof plainImage>[2] = {}) => plainImage('boot', 4096, change);
const one = report([boot({ sha256: 'aa' }), plainImage('system', 9)]);

describe('a package that comes again', () => {
  it('is the same by its build, its images and their hashes, as far as both know them', () => {
    expect(isSamePackage(one, one)).toBe(true);
    expect(isSamePackage(one, report([boot(), plainImage('system', 9, { sha256: 'bb' })]))).toBe(true);
  });
  it.each([
    ['another hash', report([boot({ sha256: 'ab' }), plainImage('system', 9)])],
    ['another size', report([plainImage('boot', 4097, { sha256: 'aa' }), plainImage('system', 9)])],
    ['an image less', report([boot({ sha256: 'aa' })])],
    ['an image more', report([...one.images, plainImage('vbmeta', 1)])],
    ['another partition', report([boot({ sha256: 'aa' }), plainImage('vendor', 9)])],
    ['another build', report(one.images, { fingerprint: 'two' })],
    ['only changes', report(one.images, {}, true)],
    ['another check sum', report([boot({ sha256: 'aa', crc32: '00000001' }), plainImage('system', 9)])],
    ['another place in the archive', report([boot({ sha256: 'aa', member: 'x' }), plainImage('system', 9)])],
  ])('is another with %s', (_what, other) => {
    expect(isSamePackage(one, other)).toBe(false);
    expect(isSamePackage(other, one)).toBe(false);
  });
});

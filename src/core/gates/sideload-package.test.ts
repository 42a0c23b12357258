import { describe, expect, it } from 'vitest';
import { interpretFacts } from '../formats/facts/parse-facts';
import type { PackageReport } from '../packages/package-report';
import { whyNotSideload } from './sideload-package';

/* Whether a package may go by sideload, either side of each rule. */

const OLD = 'club/hill_eu/hill:16/HC1.260805.001/8001:user/release-keys';
const NOW = 'club/hill_eu/hill:16/HC1.260905.007/9001:user/release-keys';
const NEXT = 'club/hill_eu/hill:16/HC1.261005.002/9101:user/release-keys';
const LEVELS: Readonly<Record<string, string>> = {
  [OLD]: '2026-08-05',
  [NOW]: '2026-09-05',
  [NEXT]: '2026-10-05',
};
const idOf = (fingerprint: string) => fingerprint.split('/')[3]!;

const report = (
  fingerprint: string | null,
  change: { incremental?: boolean; source?: string | null; device?: string } = {},
): PackageReport => ({
  kind: 'update-zip',
  incremental: change.incremental ?? false,
  build: {
    fingerprint,
    buildId: fingerprint === null ? null : idOf(fingerprint),
    incrementalVersion: null,
    patchLevel: fingerprint === null ? null : (LEVELS[fingerprint] ?? null),
    devices: [change.device ?? 'hill'],
    requiredBootloader: [],
    requiredBaseband: [],
    sourceFingerprint: change.source ?? null,
  },
  images: [],
  evidence: [],
  warnings: [],
  writes: [],
});
const installed = {
  ...interpretFacts({
    'ro.build.fingerprint': NOW,
    'ro.product.device': 'hill',
    'ro.build.version.security_patch': '2026-09-05',
  }),
  region: null,
  sources: {},
} as never;
const edge = (allowed: boolean) => ({
  fromBuild: idOf(NOW),
  toBuild: idOf(OLD),
  allowed,
  bootloader: null,
  note: '',
});
const why = (one: PackageReport, target: string, edges: readonly ReturnType<typeof edge>[] = []) =>
  whyNotSideload(one, 'a.zip', { installed, target, edges });

describe('a package for a sideload', () => {
  it('goes when it is whole, newer and the round’s own', () => expect(why(report(NEXT), NEXT)).toBeNull());
  it('has to name its build', () => expect(why(report(null), NEXT)).toEqual({ code: 'names-no-build' }));
  it('has to bring the build that the round is about', () =>
    expect(why(report(NEXT), OLD)).toEqual({ code: 'another-build', brings: idOf(NEXT), wanted: idOf(OLD) }));
  it('of another handset is none', () =>
    expect(
      why(report(NEXT.replaceAll('hill', 'dale'), { device: 'dale' }), NEXT.replaceAll('hill', 'dale')),
    ).toMatchObject({
      code: 'does-not-fit',
      reason: { code: 'other-device' },
    }));
  it('of a build that only looks like the installed one is none', () => {
    const alike = NOW.replace('HC1.26', 'HCI.26');
    expect(why(report(alike), alike)).toMatchObject({
      code: 'does-not-fit',
      reason: { code: 'looks-alike' },
    });
  });
  it('that is incremental goes from its own source only', () => {
    expect(why(report(NEXT, { incremental: true, source: NOW }), NEXT)).toBeNull();
    expect(why(report(NEXT, { incremental: true, source: OLD }), NEXT)).toEqual({
      code: 'another-source',
      source: idOf(OLD),
      installed: idOf(NOW),
    });
    expect(why(report(NEXT, { incremental: true }), NEXT)).toMatchObject({
      code: 'another-source',
      source: null,
    });
  });
  it('down goes where the way is known, and was never refused', () => {
    expect(why(report(OLD), OLD)).toEqual({
      code: 'way-down',
      from: idOf(NOW),
      to: idOf(OLD),
      refusedOnce: false,
    });
    expect(why(report(OLD), OLD, [edge(true)])).toBeNull();
    expect(why(report(OLD), OLD, [edge(true), edge(false)])).toMatchObject({
      code: 'way-down',
      refusedOnce: true,
    });
  });
});

import { describe, expect, it } from 'vitest';
import { interpretFacts } from '../formats/facts/parse-facts';
import type { PackageReport } from '../packages/package-report';
import type { PackageQuestion } from './judge-package';
import { judgePackage } from './judge-package';

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
const IDLE = {
  mode: 'sideload',
  battery: { percent: 80, fit: true, ageSeconds: 60 },
  snapshot: 'none',
} as const;
const asked = (
  one: PackageReport,
  wanted: string,
  edges: readonly ReturnType<typeof edge>[] = [],
  handset: Partial<PackageQuestion['handset']> = {},
) =>
  judgePackage({
    report: one,
    fileName: 'a.zip',
    installed,
    wanted,
    edges,
    handset: { ...IDLE, ...handset },
  });
/** What does not hold, and what nobody knows. */
const not = (...question: Parameters<typeof asked>) => {
  const { verdict, checks } = asked(...question);
  return [verdict, ...checks.flatMap(({ id, holds }) => (holds === true ? [] : [`${id} ${holds}`]))];
};
const saw = (id: string, ...question: Parameters<typeof asked>) =>
  asked(...question).checks.find((check) => check.id === id)?.saw;

describe('a package for a sideload', () => {
  it('goes when it is whole, newer and the one that is wanted', () =>
    expect(not(report(NEXT), NEXT)).toEqual(['allowed']));
  it('has to name its build', () =>
    expect(not(report(null), NEXT)).toEqual(['refused', 'build false', 'handset false']));
  it('has to bring the build that is wanted', () => {
    expect(not(report(NEXT), OLD)).toEqual(['refused', 'build false']);
    expect(saw('build', report(NEXT), OLD)).toEqual({
      code: 'package-build',
      brings: idOf(NEXT),
      wanted: idOf(OLD),
    });
  });
  it('of another handset is none', () => {
    const dale = NEXT.replaceAll('hill', 'dale');
    expect(not(report(dale, { device: 'dale' }), dale)).toEqual(['refused', 'handset false']);
    expect(saw('handset', report(dale, { device: 'dale' }), dale)).toMatchObject({
      code: 'package-fits',
      reason: { code: 'other-device' },
    });
  });
  it('of a build that only looks like the installed one is none', () => {
    const alike = NOW.replace('HC1.26', 'HCI.26');
    expect(not(report(alike), alike)).toEqual(['refused', 'handset false']);
    expect(saw('handset', report(alike), alike)).toMatchObject({ reason: { code: 'looks-alike' } });
  });
  it('that is incremental goes from its own source only', () => {
    const from = (source: string | null) => report(NEXT, { incremental: true, source });
    expect(not(from(NOW), NEXT)).toEqual(['allowed']);
    expect(not(from(OLD), NEXT)).toEqual(['refused', 'source false']);
    expect(not(from(null), NEXT)).toEqual(['refused', 'source false']);
    expect(saw('source', from(OLD), NEXT)).toMatchObject({ source: idOf(OLD), installed: idOf(NOW) });
  });
  it('down goes where the way is known, and was never refused', () => {
    expect(not(report(OLD), OLD)).toEqual(['refused', 'floor false']);
    expect(not(report(OLD), OLD, [edge(true)])).toEqual(['allowed']);
    expect(not(report(OLD), OLD, [edge(true), edge(false)])).toEqual(['refused', 'floor false']);
    expect(saw('floor', report(OLD), OLD, [edge(false)])).toMatchObject({ noted: 'refused' });
    expect(saw('floor', report(OLD), OLD)).toMatchObject({ noted: 'never' });
  });
  it.each([
    [{ mode: 'recovery' }, 'refused', 'mode false'],
    [{ mode: null }, "can't tell", 'mode null'],
    [{ snapshot: 'snapshotted' }, 'refused', 'snapshot false'],
    [{ snapshot: 'merging' }, 'refused', 'snapshot false'],
    [{ snapshot: null }, "can't tell", 'snapshot null'],
    [{ battery: { percent: 29, fit: null, ageSeconds: 60 } }, 'refused', 'battery false'],
    [{ battery: { percent: null, fit: null, ageSeconds: null } }, "can't tell", 'battery null'],
  ] as const)('where the handset is %j: %s', (handset, ...answer) =>
    expect(not(report(NEXT), NEXT, [], handset)).toEqual(answer),
  );
  it('goes at the least charge, and where an update is done', () => {
    const battery = { percent: 30, fit: null, ageSeconds: 60 };
    expect(not(report(NEXT), NEXT, [], { battery, snapshot: 'done' })).toEqual(['allowed']);
  });
});

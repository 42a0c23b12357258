import type { DowngradeEdge } from '../feasibility/floors';
import { downgradeEdge } from '../feasibility/floors';
import type { InstalledBuild } from '../fit/fit-package';
import { fitPackage, isForeign } from '../fit/fit-package';
import { packageClaim } from '../fit/package-claim';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { PackageReport } from '../packages/package-report';
import type { WriteCheckId } from '../words/write';
import type { WriteJudgement } from './judge-write';
import { judgementOf } from './judge-write';
import type { WriteTarget } from './write-question';
import type { Finding } from './write-rules';
import { batteryFinding, snapshotFinding } from './write-rules';

/*
 * May this package go to this handset by sideload? The judgement of a write for what the recovery itself takes
 * apart and writes (docs/method.md, "What may be written where").
 */

export interface PackageQuestion {
  readonly report: PackageReport;
  readonly fileName: string;
  readonly installed: InstalledBuild;
  /** Fingerprint of the build that is wanted. */
  readonly wanted: string;
  /** Ways down that are known for this code name. */
  readonly edges: readonly DowngradeEdge[];
  /** What was read of the handset a moment ago; unknown is null. */
  readonly handset: Pick<WriteTarget, 'mode' | 'battery' | 'snapshot'>;
}

type Rule = (question: PackageQuestion) => Finding;

const idOf = (fingerprint: string | null) =>
  fingerprint === null ? null : (splitFingerprint(fingerprint)?.id ?? fingerprint);
const fitOf = ({ report, fileName, installed }: PackageQuestion) =>
  fitPackage(packageClaim(report, fileName), installed);

const build: Rule = ({ report, wanted }) => {
  const { fingerprint } = report.build;
  return [
    fingerprint === wanted,
    { code: 'package-build', brings: idOf(fingerprint), wanted: idOf(wanted)! },
  ];
};

/** A package of which nothing tells whom it is for is never sent. */
const handset: Rule = (question) => {
  const { verdict, reason } = fitOf(question);
  return [!isForeign(verdict) && verdict !== "can't tell", { code: 'package-fits', reason }];
};

const source: Rule = ({ report, installed }) => {
  const { sourceFingerprint } = report.build;
  return report.incremental
    ? [
        sourceFingerprint !== null && sourceFingerprint === installed.fingerprint,
        {
          code: 'package-source',
          source: idOf(sourceFingerprint),
          installed: idOf(installed.fingerprint),
        },
      ]
    : [true, { code: 'package-whole' }];
};

/** An older build goes only where the maker's way down is known, and was never refused. */
const floor: Rule = (question) => {
  const { installed, edges, report } = question;
  const [from, to] = [idOf(installed.fingerprint), idOf(report.build.fingerprint)];
  if (from === null || to === null || fitOf(question).verdict !== 'older')
    return [true, { code: 'no-way-down' }];
  const edge = downgradeEdge(edges, from, to);
  return [
    edge?.allowed === true,
    { code: 'way-down', from, to, noted: edge === null ? 'never' : edge.allowed ? 'works' : 'refused' },
  ];
};

const mode: Rule = ({ handset: { mode: now } }) => [
  now === null ? null : now === 'sideload',
  { code: 'package-mode', mode: now },
];

/** A build counts as a second update. */
const snapshot: Rule = ({ handset: { snapshot: state } }) => snapshotFinding(state, null, true);

const PACKAGE_RULES = {
  build,
  handset,
  source,
  floor,
  mode,
  battery: ({ handset: { battery } }) => batteryFinding(battery),
  snapshot,
} as const satisfies Partial<Record<WriteCheckId, Rule>>;

export const judgePackage = (question: PackageQuestion): WriteJudgement =>
  judgementOf(
    (Object.keys(PACKAGE_RULES) as (keyof typeof PACKAGE_RULES)[]).map((id) => {
      const [holds, saw] = PACKAGE_RULES[id](question);
      return { id, holds, saw, overridable: holds === null };
    }),
  );

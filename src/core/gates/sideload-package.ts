import type { DowngradeEdge } from '../feasibility/floors';
import { downgradeEdge } from '../feasibility/floors';
import type { InstalledBuild } from '../fit/fit-package';
import { fitPackage } from '../fit/fit-package';
import { packageClaim } from '../fit/package-claim';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { PackageReport } from '../packages/package-report';

/* Whether a package may go to a handset by sideload (docs/method.md, "What may be written where"). */

export interface SideloadQuestion {
  readonly installed: InstalledBuild;
  /** Fingerprint of the build that the round is about. */
  readonly target: string;
  /** Ways down that are known for this code name. */
  readonly edges: readonly DowngradeEdge[];
}

const idOf = (fingerprint: string) => splitFingerprint(fingerprint)?.id ?? fingerprint;

/** Why a package must not be sent, in one sentence; null where it may. */
export function whyNotSideload(report: PackageReport, fileName: string, { installed, target, edges }: SideloadQuestion): string | null {
  const { fingerprint, sourceFingerprint } = report.build;
  if (fingerprint === null) return 'This package does not say which build it brings.';
  if (fingerprint !== target) return `This package brings ${idOf(fingerprint)}, and this round is about ${idOf(target)}.`;
  const { verdict, reason } = fitPackage(packageClaim(report, fileName), installed);
  if (verdict === 'other handset' || verdict === 'other variant' || verdict === "can't tell") return reason;
  if (report.incremental && sourceFingerprint !== installed.fingerprint)
    return `This package changes ${sourceFingerprint === null ? 'a build that it does not name' : idOf(sourceFingerprint)} only, and the handset has ${idOf(installed.fingerprint!)}.`;
  if (verdict !== 'older') return null;
  const [from, to] = [idOf(installed.fingerprint!), idOf(fingerprint)];
  const edge = downgradeEdge(edges, from, to);
  if (edge?.allowed === true) return null;
  return edge === null ? `No way down from ${from} to ${to} is known.` : `The way down from ${from} to ${to} was refused once.`;
}

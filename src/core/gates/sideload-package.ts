import type { DowngradeEdge } from '../feasibility/floors';
import { downgradeEdge } from '../feasibility/floors';
import type { InstalledBuild } from '../fit/fit-package';
import { fitPackage, isForeign } from '../fit/fit-package';
import { packageClaim } from '../fit/package-claim';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { PackageReport } from '../packages/package-report';
import type { SideloadRefusal } from '../words/sideload';

/* Whether a package may go to a handset by sideload (docs/method.md, "What may be written where"). */

export interface SideloadQuestion {
  readonly installed: InstalledBuild;
  /** Fingerprint of the build that the round is about. */
  readonly target: string;
  /** Ways down that are known for this code name. */
  readonly edges: readonly DowngradeEdge[];
}

const idOf = (fingerprint: string) => splitFingerprint(fingerprint)?.id ?? fingerprint;

/** Why a package must not be sent; null where it may. */
export function whyNotSideload(
  report: PackageReport,
  fileName: string,
  { installed, target, edges }: SideloadQuestion,
): SideloadRefusal | null {
  const { fingerprint, sourceFingerprint } = report.build;
  if (fingerprint === null) return { code: 'names-no-build' };
  if (fingerprint !== target)
    return { code: 'another-build', brings: idOf(fingerprint), wanted: idOf(target) };
  const { verdict, reason } = fitPackage(packageClaim(report, fileName), installed);
  if (isForeign(verdict) || verdict === "can't tell") return { code: 'does-not-fit', reason };
  const from = idOf(installed.fingerprint!);
  if (report.incremental && sourceFingerprint !== installed.fingerprint)
    return {
      code: 'another-source',
      source: sourceFingerprint === null ? null : idOf(sourceFingerprint),
      installed: from,
    };
  if (verdict !== 'older') return null;
  const to = idOf(fingerprint);
  const edge = downgradeEdge(edges, from, to);
  return edge?.allowed === true ? null : { code: 'way-down', from, to, refusedOnce: edge !== null };
}

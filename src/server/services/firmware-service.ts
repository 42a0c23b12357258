import 'server-only';
import type { HandsetFit, PackageView } from '@/contracts/firmware-view';
import { fitPackage, isForeign } from '@/core/fit/fit-package';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { PackageReport } from '@/core/packages/package-report';
import { listHandsets } from '../repositories/handset-repository';
import { deletePackage, listPackages, recordBuild, recordPackage } from '../repositories/image-repository';
import { now } from './clock';
import { currentFacts, typedFacts } from './fact-service';
import { settleRounds } from './round-settling';

/** A package's build held against every handset on the bench. */
export async function fitAll(report: PackageReport): Promise<HandsetFit[]> {
  const fits: HandsetFit[] = [];
  for (const { id, name } of await listHandsets())
    fits.push({ handsetId: id, name, fit: fitPackage(report.build, typedFacts(await currentFacts(id))) });
  return fits;
}

/**
 * Remembers what a package was found to be; the package itself stays where it is. One that holds no image, or is for none of the handsets
 * on the bench, is judged but not remembered.
 */
export async function keepPackage(fileName: string, sizeBytes: number, report: PackageReport): Promise<HandsetFit[]> {
  const fits = await fitAll(report);
  if (report.images.length === 0 || (fits.length > 0 && fits.every(({ fit }) => isForeign(fit.verdict)))) return fits;
  await recordPackage({ fileName, sizeBytes, report: JSON.stringify(report), openedAt: now() });
  const { fingerprint, patchLevel } = report.build;
  const parts = fingerprint ? splitFingerprint(fingerprint) : null;
  if (fingerprint && parts && patchLevel) {
    await recordBuild({
      fingerprint,
      device: parts.device,
      product: parts.product,
      buildId: parts.id,
      patchLevel,
      publishedAt: Date.parse(patchLevel.length === 7 ? `${patchLevel}-01` : patchLevel),
    });
  }
  await settleRounds();
  return fits;
}

/** Forgets a package that turned out damaged when something was taken out of it. */
export async function forgetPackage(fileName: string, sizeBytes: number): Promise<void> {
  await deletePackage(fileName, sizeBytes);
}

export async function packageViews(): Promise<PackageView[]> {
  return (await listPackages()).map(({ id, fileName, sizeBytes, openedAt, report }) => ({
    id,
    fileName,
    sizeBytes,
    openedAt,
    report: JSON.parse(report) as PackageReport,
  }));
}

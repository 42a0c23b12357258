'use server';
import { recordPackageSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import type { PackageReport } from '@/core/packages/package-report';
import type { HandsetFit, PackageView } from '@/contracts/firmware-view';
import { fitAll, keepPackage } from '@/server/services/firmware-service';

/** Remembers what a package was found to be, and holds it against every handset. */
export async function keepPackageAction(input: { fileName: string; sizeBytes: number; report: PackageReport }): Promise<Outcome<HandsetFit[]>> {
  return outcome(async () => {
    const { fileName, sizeBytes, report } = await recordPackageSchema.validate(input);
    return keepPackage(fileName, sizeBytes, report as PackageReport);
  });
}

export async function fitKnownAction(view: Pick<PackageView, 'report'>): Promise<Outcome<HandsetFit[]>> {
  return outcome(() => fitAll(view.report));
}

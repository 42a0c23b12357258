'use server';
import { packageNameSchema, recordPackageSchema } from '@/contracts/inputs';
import type { Outcome } from '@/contracts/outcome';
import { outcome } from '@/contracts/outcome';
import type { PackageReport } from '@/core/packages/package-report';
import type { HandsetFit } from '@/contracts/firmware-view';
import { forgetPackage, keepPackage } from '@/server/services/firmware-service';

/** Remembers what a package was found to be, and holds it against every handset. */
export async function keepPackageAction(input: { fileName: string; sizeBytes: number; report: PackageReport }): Promise<Outcome<HandsetFit[]>> {
  return outcome(async () => {
    const { fileName, sizeBytes, report } = await recordPackageSchema.validate(input);
    return keepPackage(fileName, sizeBytes, report as PackageReport);
  });
}

export async function forgetPackageAction(input: { fileName: string; sizeBytes: number }): Promise<Outcome<void>> {
  return outcome(async () => {
    const { fileName, sizeBytes } = await packageNameSchema.validate(input);
    await forgetPackage(fileName, sizeBytes);
  });
}

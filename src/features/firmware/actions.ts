'use server';
import {
  fileHashSchema,
  fileSourceSchema,
  findLineSchema,
  packageNameSchema,
  recordPackageSchema,
} from '@/contracts/inputs';
import { downloadSchema, patchedImageSchema } from '@/contracts/firmware-inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import type { JudgedList } from '@/core/finding/listed-builds';
import type { PackageReport } from '@/core/packages/package-report';
import type { FileSource } from '@/core/table/roll-call';
import type { FileMemory, HandsetFit, PackageJudgement } from '@/contracts/firmware-view';
import {
  fitAll,
  forgetPackage,
  keepPackage,
  patchedImage,
  rememberHash,
  sourceOfFile,
  tellSource,
} from '@/server/services/firmware-service';
import { fetchFromPage } from '@/server/services/download-page';
import { forgetDownload } from '@/server/services/downloads';
import { findInList } from '@/server/services/listed-builds';

/**
 * Remembers what this page found a package to be, where the server can't open it itself, and holds it against
 * every handset.
 */
export async function keepPackageAction(input: {
  fileName: string;
  sizeBytes: number;
  report: PackageReport;
}): Promise<Outcome<PackageJudgement>> {
  return outcome(async () => {
    const { fileName, sizeBytes, report } = await recordPackageSchema.validate(input);
    return keepPackage({ fileName, sizeBytes, report: report as PackageReport, readBy: 'page' });
  });
}

/** The patched image of a build that was proved, for the archive of its set. */
export async function patchedImageAction(input: {
  fingerprint: string;
  partition: string;
}): Promise<Outcome<{ sha256: string }>> {
  return checked(patchedImageSchema, input, ({ fingerprint, partition }) =>
    patchedImage(fingerprint, partition),
  );
}

/** How a file on the table fits each handset; nothing is remembered. */
export async function fitFileAction(input: {
  fileName: string;
  sizeBytes: number;
  report: PackageReport;
}): Promise<Outcome<HandsetFit[]>> {
  return outcome(async () => {
    const { report, fileName } = await recordPackageSchema.validate(input);
    return fitAll(report as PackageReport, fileName);
  });
}

export async function forgetPackageAction(input: {
  fileName: string;
  sizeBytes: number;
}): Promise<Outcome<void>> {
  return outcome(async () => {
    const { fileName, sizeBytes } = await packageNameSchema.validate(input);
    await forgetPackage(fileName, sizeBytes);
  });
}

/** Whether a file of this name was hashed here before, and had another hash then. */
export async function rememberHashAction(input: {
  fileName: string;
  sizeBytes: number;
  sha256: string;
}): Promise<Outcome<FileMemory>> {
  return outcome(async () => {
    const { fileName, sizeBytes, sha256 } = await fileHashSchema.validate(input);
    return rememberHash(fileName, sizeBytes, sha256);
  });
}

/** Where a file came from, as it was said last. */
export async function fileSourceAction(input: {
  fileName: string;
  sizeBytes: number;
}): Promise<Outcome<FileSource>> {
  return outcome(async () => {
    const { fileName, sizeBytes } = await packageNameSchema.validate(input);
    return sourceOfFile(fileName, sizeBytes);
  });
}

export async function tellFileSourceAction(input: {
  fileName: string;
  sizeBytes: number;
  source: FileSource;
}): Promise<Outcome<void>> {
  return outcome(async () => {
    const { fileName, sizeBytes, source } = await fileSourceSchema.validate(input);
    await tellSource(fileName, sizeBytes, source);
  });
}

/** Which line of a maker's list is the build installed on a handset; nothing is remembered. */
export async function findLineAction(input: {
  handsetId: string;
  text: string;
}): Promise<Outcome<JudgedList>> {
  return outcome(async () => {
    const { handsetId, text } = await findLineSchema.validate(input);
    return findInList(handsetId, text);
  });
}

/** Fetches a file of the download page, or goes on where it was stopped. */
export async function fetchFileAction(input: { sha256: string }): Promise<Outcome<JobView>> {
  return checked(downloadSchema, input, ({ sha256 }) => fetchFromPage(sha256));
}

/** Throws away what came of a file of the download page. */
export async function forgetDownloadAction(input: { sha256: string }): Promise<Outcome<void>> {
  return checked(downloadSchema, input, ({ sha256 }) => forgetDownload(sha256));
}

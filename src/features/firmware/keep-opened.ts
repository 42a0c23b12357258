import type { PackageJudgement } from '@/contracts/firmware-view';
import type { Outcome } from '@/contracts/outcome';
import { toEternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import type { PackageReport } from '@/core/packages/package-report';
import type { ByteRange } from '@/core/packages/partial-source';
import { bytesIn, rangesToSend } from '@/core/packages/partial-source';
import { sendOpening } from '@/ui/send';
import { keepPackageAction } from './actions';

interface OpenedFiles {
  readonly files: readonly File[];
  /** What opening them read of each, in their order. */
  readonly opening: readonly (readonly ByteRange[])[];
  readonly sizeBytes: number;
  readonly report: PackageReport;
}

/**
 * Has the server open the package too, from what opening it read here, and judge it. Where that is too much
 * to send, or the server's own reading wants a byte that this one did not, it keeps the report of this page
 * and relies on none of its hashes.
 */
export async function keepOpened({
  files,
  opening,
  sizeBytes,
  report,
}: OpenedFiles): Promise<Outcome<PackageJudgement>> {
  const parts = files.map((file, i) => ({ file, ranges: rangesToSend(opening[i] ?? [], file.size) }));
  if (parts.reduce((sum, { ranges }) => sum + bytesIn(ranges), 0) <= LIMITS.openingBytes) {
    try {
      return { ok: true, value: await sendOpening(parts) };
    } catch (thrown) {
      const error = toEternoError(thrown);
      if (error.code !== 'not-found') return { ok: false, error: error.toData() };
    }
  }
  return keepPackageAction({ fileName: files[0]!.name, sizeBytes, report });
}

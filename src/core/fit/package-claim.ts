import type { PackageReport } from '../packages/package-report';
import type { BuildClaim } from './fit-package';

/** What a package says of its build, with the name it came under: labels name the regions they shut out. */
export function packageClaim(report: PackageReport, fileName: string | null): BuildClaim {
  const from =
    report.kind === 'bare-image'
      ? 'the image’s own data'
      : report.kind === 'update-zip'
        ? 'its metadata'
        : 'its lists and images';
  return {
    ...report.build,
    partitions: report.images.map(({ partition }) => partition),
    label: fileName,
    from,
  };
}

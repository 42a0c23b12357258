import type { PackageReport } from './package-report';

/** What a package is by its table of contents: its build, and every image it states. */
const contentsOf = ({ build, images, incremental }: PackageReport) =>
  JSON.stringify([
    build.fingerprint,
    incremental,
    images.map(({ partition, size, crc32, member }) => [partition, size, crc32, member]),
  ]);

/** Whether two reports are of the same package; hashes that only one of them knows say nothing against it. */
export const isSamePackage = (a: PackageReport, b: PackageReport): boolean =>
  contentsOf(a) === contentsOf(b) &&
  a.images.every(({ sha256 }, i) => {
    const other = b.images[i]?.sha256 ?? null;
    return sha256 === null || other === null || sha256 === other;
  });

import type { Fit } from '@/core/fit/fit-package';
import type { PackageReport } from '@/core/packages/package-report';

export interface HandsetFit {
  readonly handsetId: string;
  readonly name: string;
  readonly fit: Fit;
}

export interface PackageView {
  readonly id: string;
  readonly fileName: string;
  readonly sizeBytes: number;
  readonly openedAt: number;
  readonly report: PackageReport;
}

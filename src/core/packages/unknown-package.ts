import { EternoError } from '../errors';
import type { OpenedPackage } from './package-report';
import { UNKNOWN_BUILD } from './package-report';

/** A file from which no image can be taken: told so, not an error. */
export function unknownPackage(file: string, why: string): OpenedPackage {
  return {
    contents: [],
    report: {
      kind: 'unknown',
      incremental: false,
      build: UNKNOWN_BUILD,
      images: [],
      evidence: [],
      warnings: [why],
      writes: [],
    },
    take: async (partition) => {
      throw new EternoError('bad-magic', `${why}; no image of ${partition} can be taken out`, {
        file,
        offset: 0,
      });
    },
  };
}

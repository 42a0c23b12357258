import type { FloorId, FloorSays } from '../words/floors';
import { monthOf } from './patch-levels';

/*
 * The three floors below which nothing helps, and downgrades that others have walked (docs/method.md, "The
 * three floors").
 */

export interface FloorFacts {
  /**
   * (a) The bootloader's fuse on the handset, and the least that the wanted build brings; null where not
   * read.
   */
  readonly fuse: number | null;
  readonly wantedFuse: number | null;
  /**
   * (b) The rollback index stored in the handset, and the wanted image's. It counts while the bootloader is
   * locked.
   */
  readonly storedIndex: number | null;
  readonly wantedIndex: number | null;
  /** (c) The oldest patch level that the maker's tools still write. */
  readonly makerFloor: string | null;
  readonly wantedPatchLevel: string | null;
  readonly locked: boolean | null;
  /** Whether the wanted build writes the bootloader. */
  readonly writesBootloader: boolean;
}

export interface Floor {
  readonly id: FloorId;
  readonly verdict: 'above' | 'below' | 'unknown' | 'does not count';
  readonly says: FloorSays;
}

export function floorsOf(facts: FloorFacts): Floor[] {
  return [fuseFloor(facts), indexFloor(facts), makerFloor(facts)];
}

function fuseFloor({ fuse, wantedFuse, writesBootloader }: FloorFacts): Floor {
  const floor = (verdict: Floor['verdict'], says: FloorSays): Floor => ({ id: 'fuse', verdict, says });
  if (!writesBootloader) return floor('does not count', { code: 'no-bootloader-written' });
  if (fuse === null || wantedFuse === null) return floor('unknown', { code: 'fuse-unread' });
  return wantedFuse < fuse
    ? floor('below', { code: 'below-fuse', fuse, build: wantedFuse })
    : floor('above', { code: 'above', stored: fuse, build: wantedFuse });
}

function indexFloor({ storedIndex: stored, wantedIndex: build, locked }: FloorFacts): Floor {
  const floor = (verdict: Floor['verdict'], says: FloorSays): Floor => ({
    id: 'stored index',
    verdict,
    says,
  });
  if (stored !== null && build !== null && build < stored)
    return floor(locked === false ? 'does not count' : 'below', {
      code: 'below-index',
      stored,
      build,
      locked: locked !== false,
    });
  if (locked === false) return floor('does not count', { code: 'unlocked' });
  if (stored === null || build === null) return floor('unknown', { code: 'index-unread' });
  return floor('above', { code: 'above', stored, build });
}

function makerFloor({ makerFloor: level, wantedPatchLevel }: FloorFacts): Floor {
  const floor = (verdict: Floor['verdict'], says: FloorSays): Floor => ({ id: 'maker', verdict, says });
  const [least, wanted] = [monthOf(level), monthOf(wantedPatchLevel)];
  if (level === null || least === null || wanted === null) return floor('unknown', { code: 'maker-unknown' });
  return wanted < least
    ? floor('below', { code: 'maker-refuses', level })
    : floor('above', { code: 'maker-lets-in', level });
}

/** A way down that somebody has walked, or was refused. */
export interface DowngradeEdge {
  readonly fromBuild: string;
  readonly toBuild: string;
  readonly allowed: boolean;
  readonly note: string;
}

/** What is known of going from one build down to another. */
export function downgradeEdge(
  edges: readonly DowngradeEdge[],
  fromBuild: string,
  toBuild: string,
): DowngradeEdge | null {
  const known = edges.filter((edge) => edge.fromBuild === fromBuild && edge.toBuild === toBuild);
  return known.find((edge) => !edge.allowed) ?? known[0] ?? null;
}

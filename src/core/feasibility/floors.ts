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
  readonly id: 'fuse' | 'stored index' | 'maker';
  readonly title: string;
  readonly verdict: 'above' | 'below' | 'unknown' | 'does not count';
  readonly sentence: string;
}

export function floorsOf(facts: FloorFacts): Floor[] {
  return [fuseFloor(facts), indexFloor(facts), makerFloor(facts)];
}

function fuseFloor({ fuse, wantedFuse, writesBootloader }: FloorFacts): Floor {
  const floor = (verdict: Floor['verdict'], sentence: string): Floor => ({
    id: 'fuse',
    title: 'Bootloader fuse',
    verdict,
    sentence,
  });
  if (!writesBootloader) return floor('does not count', 'No bootloader is written.');
  if (fuse === null || wantedFuse === null)
    return floor(
      'unknown',
      'Below it no screen and no way in, locked or not. It has to be known before a bootloader is written.',
    );
  return wantedFuse < fuse
    ? floor('below', `The handset is at ${fuse}, the build at ${wantedFuse}: it would never start again.`)
    : floor('above', `The handset is at ${fuse}, the build at ${wantedFuse}.`);
}

function indexFloor({ storedIndex, wantedIndex, locked }: FloorFacts): Floor {
  const floor = (verdict: Floor['verdict'], sentence: string): Floor => ({
    id: 'stored index',
    title: 'Stored rollback index',
    verdict,
    sentence,
  });
  if (storedIndex !== null && wantedIndex !== null && wantedIndex < storedIndex)
    return floor(
      locked === false ? 'does not count' : 'below',
      locked === false
        ? `The build is below it (${wantedIndex} under ${storedIndex}): fine while unlocked, never lock over it.`
        : `The build is at ${wantedIndex}, the handset at ${storedIndex}: a locked handset refuses it.`,
    );
  if (locked === false)
    return floor('does not count', 'It counts when locked, and this handset is unlocked.');
  if (storedIndex === null || wantedIndex === null)
    return floor('unknown', 'What the handset has stored was never read, and it counts when locked.');
  return floor('above', `The build is at ${wantedIndex}, the handset at ${storedIndex}.`);
}

function makerFloor({ makerFloor: floorLevel, wantedPatchLevel }: FloorFacts): Floor {
  const floor = (verdict: Floor['verdict'], sentence: string): Floor => ({
    id: 'maker',
    title: 'Maker’s floor for writes',
    verdict,
    sentence,
  });
  const [least, wanted] = [monthOf(floorLevel), monthOf(wantedPatchLevel)];
  if (least === null || wanted === null)
    return floor(
      'unknown',
      'Whether the maker refuses older builds is not known; a refused write changes nothing.',
    );
  return wanted < least
    ? floor('below', `The maker lets in ${floorLevel} and newer: the write is refused.`)
    : floor('above', `The maker lets in ${floorLevel} and newer.`);
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

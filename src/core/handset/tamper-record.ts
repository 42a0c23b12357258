import type { FuseCause } from '../ways/way-kinds';
import type { HandsetProfile, HandsetState } from './state';

/* The tamper record: a fuse that blows once for what its maker minds, and a counter of writes. Neither goes back. */

type Record = HandsetState['record'];
type Ways = Pick<HandsetProfile, 'ownWays'>;

/** What its fuse reacts to; where nobody said, to the first image written that is not the maker's. */
export const fuseCause = ({ ownWays }: Ways): FuseCause => ownWays['fuse-reacts'] ?? 'a foreign write';

const blowsFor = (profile: Ways, cause: FuseCause, record: Record, did: boolean): boolean =>
  record.fuseBlown || (did && fuseCause(profile) === cause);

/** @param images how many were written; each one counts */
export const recordAfterWrite = (profile: Ways, record: Record, foreign: boolean, images = 1): Record => ({
  fuseBlown: blowsFor(profile, 'a foreign write', record, foreign),
  writes: record.writes + images,
});
export const recordAfterUnlock = (profile: Ways, record: Record): Record => ({
  ...record,
  fuseBlown: blowsFor(profile, 'unlocking', record, true),
});
export const recordAfterStart = (profile: Ways, record: Record, foreign: boolean): Record => ({
  ...record,
  fuseBlown: blowsFor(profile, 'a foreign start', record, foreign),
});

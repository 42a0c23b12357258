import 'server-only';

/** What was read of the maker's download page, and when. */
export const DOWNLOAD_PAGE = 'download-page';
/** A case of trouble that is open; a handset’s id follows, or a class. */
export const RESCUE_CASE = 'rescue-case:';
/** The browser's cable is switched on, and since when. */
export const CABLE = 'cable';
/** The person agreed to it for a handset; its id follows. */
export const CABLE_FOR = 'cable-for:';
/** Slips that were counted in practice, and whether they weigh. */
export const PRACTICE_SLIPS = 'practice-slips';

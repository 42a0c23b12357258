import 'server-only';

/** What was read of the maker's download page, and when. */
export const DOWNLOAD_PAGE = 'download-page';
/** A case of trouble that is open; a handset’s id follows, or a class. */
export const RESCUE_CASE = 'rescue-case:';

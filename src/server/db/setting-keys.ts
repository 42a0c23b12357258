import 'server-only';

/** What was read of the maker's download page, and when. */
export const DOWNLOAD_PAGE = 'download-page';

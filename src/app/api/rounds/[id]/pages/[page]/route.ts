import { EternoError } from '@/core/errors';
import { isPageKind, pageResponse } from '@/server/services/pages-service';
import { guarded } from '@/server/services/request-guard';

/** A page of a round as a Markdown file. */
export const GET = guarded<{ readonly params: Promise<{ id: string; page: string }> }>(
  async (_request, { params }) => {
    const { id, page } = await params;
    if (!isPageKind(page)) throw new EternoError('not-found', 'A round has no such page.');
    return pageResponse(id, page);
  },
);

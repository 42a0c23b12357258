import { rescueResponse } from '@/server/services/pages-service';
import { guarded } from '@/server/services/request-guard';

/** The rescue page of a round with every file that it names, as one ZIP. */
export const GET = guarded<{ readonly params: Promise<{ id: string }> }>(async (_request, { params }) =>
  rescueResponse((await params).id),
);

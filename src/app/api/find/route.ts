import { findWords } from '@/server/services/find-service';
import { guarded } from '@/server/services/request-guard';

/** What the search over the rooms finds for some words. */
export const GET = guarded<unknown>(async (request) =>
  Response.json(await findWords(new URL(request.url).searchParams.get('text') ?? '')),
);

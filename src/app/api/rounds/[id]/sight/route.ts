import { sightOf } from '@/server/rounds/sight';
import { guarded } from '@/server/services/request-guard';

/** What the link sees of the handset while its round waits; nothing is kept. */
export const GET = guarded<{ readonly params: Promise<{ id: string }> }>(async (_request, { params }) =>
  Response.json({ sight: await sightOf((await params).id) }),
);

import { guarded } from '@/server/services/request-guard';

/** Says that the server is there, and nothing else. */
export const GET = guarded<unknown>(async () => new Response(null, { status: 204 }));

import { guarded } from '@/server/services/request-guard';
import { setCable } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  await setCable(((await request.json()) as { connected?: unknown }).connected === true);
  return Response.json({ ok: true });
});

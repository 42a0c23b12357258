import { standInCableSchema } from '@/contracts/stand-in-inputs';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { setCable } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, connected } = await standInCableSchema.validate(await bodyJson(request));
  await setCable(profile, connected);
  return Response.json({ ok: true });
});

import { standInCableSchema } from '@/contracts/inputs';
import { guarded } from '@/server/services/request-guard';
import { setCable } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, connected } = await standInCableSchema.validate(await request.json());
  await setCable(profile, connected);
  return Response.json({ ok: true });
});

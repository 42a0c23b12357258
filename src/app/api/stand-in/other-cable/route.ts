import { standInOtherCableSchema } from '@/contracts/stand-in-inputs';
import { guarded } from '@/server/services/request-guard';
import { otherCable } from '@/server/services/stand-in-service';
import { bodyJson } from '@/server/services/streams';

export const POST = guarded<unknown>(async (request) => {
  const { profile } = await standInOtherCableSchema.validate(await bodyJson(request));
  await otherCable(profile);
  return Response.json({ ok: true });
});

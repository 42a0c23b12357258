import { forceImageSchema } from '@/contracts/inputs';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { forceImage } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, sha256, partition } = await forceImageSchema.validate(await bodyJson(request));
  await forceImage(profile, sha256, partition);
  return Response.json({ ok: true });
});

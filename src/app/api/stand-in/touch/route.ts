import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { standInTouchSchema } from '@/contracts/stand-in-inputs';
import { touchStandIn } from '@/server/rounds/over-link';

export const POST = guarded<unknown>(async (request) => {
  const { profile, id } = await standInTouchSchema.validate(await bodyJson(request));
  await touchStandIn(profile, id);
  return Response.json({ ok: true });
});

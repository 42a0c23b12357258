import { guarded } from '@/server/services/request-guard';
import { standInTouchSchema } from '@/contracts/inputs';
import { touchStandIn } from '@/server/services/link-steps';

export const POST = guarded<unknown>(async (request) => {
  const { profile, id } = await standInTouchSchema.validate(await request.json());
  await touchStandIn(profile, id);
  return Response.json({ ok: true });
});

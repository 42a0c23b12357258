import { standInTouchSchema } from '@/contracts/inputs';
import { guarded } from '@/server/services/request-guard';
import { touchScreen } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, id } = await standInTouchSchema.validate(await request.json());
  await touchScreen(profile, id);
  return Response.json({ ok: true });
});

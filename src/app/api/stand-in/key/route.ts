import { standInKeySchema } from '@/contracts/stand-in-inputs';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { pressKey } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, key, down } = await standInKeySchema.validate(await bodyJson(request));
  await pressKey(profile, key, down);
  return Response.json({ ok: true });
});

import { standInBatterySchema } from '@/contracts/stand-in-inputs';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { setBattery } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, percent } = await standInBatterySchema.validate(await bodyJson(request));
  await setBattery(profile, percent);
  return Response.json({ ok: true });
});

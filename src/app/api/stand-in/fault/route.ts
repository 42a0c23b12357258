import { standInFaultSchema } from '@/contracts/stand-in-inputs';
import { guarded } from '@/server/services/request-guard';
import { putFault } from '@/server/services/stand-in-service';
import { bodyJson } from '@/server/services/streams';

export const POST = guarded<unknown>(async (request) => {
  const { profile, fault } = await standInFaultSchema.validate(await bodyJson(request));
  await putFault(profile, fault);
  return Response.json({ ok: true });
});

import { standInDeskSchema } from '@/contracts/stand-in-inputs';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { writeToDesk } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async (request) => {
  const { profile, text } = await standInDeskSchema.validate(await bodyJson(request));
  await writeToDesk(profile, text);
  return Response.json({ ok: true });
});

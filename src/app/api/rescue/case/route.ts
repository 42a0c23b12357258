import { saveCaseSchema } from '@/contracts/rescue-inputs';
import { guarded } from '@/server/services/request-guard';
import { saveCase } from '@/server/services/rescue-cases';
import { bodyJson } from '@/server/services/streams';

/** Keeps a case as it stands: a request of its own, which a page that is left at once still gets through. */
export const POST = guarded<unknown>(async (request) => {
  await saveCase(await saveCaseSchema.validate(await bodyJson(request)));
  return Response.json({ ok: true });
});

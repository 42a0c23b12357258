import { openingSchema } from '@/contracts/inputs';
import { LIMITS } from '@/core/limits';
import { keepOpening } from '@/server/services/firmware-service';
import { guarded } from '@/server/services/request-guard';
import { bodyForm, formBytes } from '@/server/services/streams';

/** What opening a package read of its files: it is opened here too, judged and remembered. */
export const POST = guarded<unknown>(async (request) => {
  const form = await bodyForm(request, LIMITS.openingBytes);
  const { files } = await openingSchema.validate({ files: form.get('files') });
  return Response.json(await keepOpening(files, await formBytes(form, 'bytes')));
});

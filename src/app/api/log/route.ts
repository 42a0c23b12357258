import { logExportSchema } from '@/contracts/inputs';
import { logExport } from '@/server/services/log-export';
import { importLog, LOG_BYTES } from '@/server/services/log-import';
import { guarded } from '@/server/services/request-guard';
import { bodyBytes } from '@/server/services/streams';

const queryOf = (request: Request) => Object.fromEntries(new URL(request.url).searchParams);

export const GET = guarded<unknown>(async (request) => {
  const { form, private: wanted } = await logExportSchema.validate(queryOf(request), { stripUnknown: true });
  return logExport(form, wanted === 'yes');
});
/** Says what a log would bring in; with `apply=yes` it is brought in. */
export const POST = guarded<unknown>(async (request) =>
  Response.json(await importLog(await bodyBytes(request, LOG_BYTES), queryOf(request)['apply'] === 'yes')),
);

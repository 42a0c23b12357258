import type { CableReport } from '@/contracts/cable-view';
import { cablePageSchema, cableReportSchema } from '@/contracts/cable-inputs';
import { reportCable } from '@/server/services/cable-desk';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';

/** What a page tells of an order. */
export const POST = guarded<unknown>(async (request) => {
  const { handset, page } = await cablePageSchema.validate(
    Object.fromEntries(new URL(request.url).searchParams),
  );
  const report = (await cableReportSchema.validate(await bodyJson(request))) as CableReport;
  reportCable(handset, page, report);
  return Response.json({ ok: true });
});

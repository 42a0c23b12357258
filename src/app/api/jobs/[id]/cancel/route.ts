import { cancelJob } from '@/server/services/jobs';
import { guarded } from '@/server/services/request-guard';

export const POST = guarded<{ readonly params: Promise<{ id: string }> }>(async (_request, { params }) => {
  cancelJob((await params).id);
  return Response.json({ ok: true });
});

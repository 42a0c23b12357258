import { guarded } from '@/server/services/request-guard';
import { restartStandIn } from '@/server/services/stand-in-service';

export const POST = guarded<unknown>(async () => {
  await restartStandIn();
  return Response.json({ ok: true });
});

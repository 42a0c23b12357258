import { cablePageSchema } from '@/contracts/cable-inputs';
import { holdCable, needFree } from '@/server/services/cable-desk';
import { needCable } from '@/server/services/cable-service';
import { guarded } from '@/server/services/request-guard';
import { eventStream } from '@/server/services/streams';

/** A page holds a handset's cable for as long as it listens here; orders for it come down this way. */
export const GET = guarded<unknown>(async (request) => {
  const { handset, page } = await cablePageSchema.validate(
    Object.fromEntries(new URL(request.url).searchParams),
  );
  await needCable(handset);
  needFree(handset, page);
  return eventStream(request.signal, (send, end) => holdCable(handset, page, send, end));
});

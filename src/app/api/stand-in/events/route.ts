import { guarded } from '@/server/services/request-guard';
import { followStandIns } from '@/server/services/stand-in-service';
import { eventStream } from '@/server/services/streams';

/** The stand-ins' screens and states at every change; a null profile while none runs. */
export const GET = guarded<unknown>(async (request) =>
  eventStream(request.signal, (send) => followStandIns((message) => send(message))),
);

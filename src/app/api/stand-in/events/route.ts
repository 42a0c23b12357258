import { guarded } from '@/server/services/request-guard';
import { followStandIn } from '@/server/services/stand-in-service';
import { eventStream } from '@/server/services/streams';

/** The stand-in's screen and state at every change; a null view while none runs. */
export const GET = guarded<unknown>(async (request) => eventStream(request.signal, (send) => followStandIn((view) => send({ view }))));

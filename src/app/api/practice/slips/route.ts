import { slipsHere } from '@/server/services/learnt-service';
import { guarded } from '@/server/services/request-guard';

/** The slips of this very store, for the Eterno that this practice was begun from. */
export const GET = guarded<unknown>(async () => Response.json(await slipsHere()));

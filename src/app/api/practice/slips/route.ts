import { slipsHere } from '@/server/services/learnt-service';
import { ownPractice } from '@/server/services/practice-self';
import { guarded } from '@/server/services/request-guard';

/** The slips of this very store, for the Eterno that this practice was begun from. */
export const GET = guarded<unknown>(async () => Response.json(await slipsHere(ownPractice()?.since ?? 0)));

import { forceImageSchema } from '@/contracts/stand-in-inputs';
import type { ForcedAnswer } from '@/contracts/stand-in-view';
import { guarded } from '@/server/services/request-guard';
import { bodyJson } from '@/server/services/streams';
import { forceJudged } from '@/server/services/forced-write';

export const POST = guarded<unknown>(async (request) => {
  const { profile, sha256, partition } = await forceImageSchema.validate(await bodyJson(request));
  return Response.json({ wrong: await forceJudged(profile, sha256, partition) } satisfies ForcedAnswer);
});

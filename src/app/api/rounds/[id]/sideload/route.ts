import { sideloadSchema } from '@/contracts/round-inputs';
import { sideloadStep } from '@/server/rounds/sideload';
import { guarded } from '@/server/services/request-guard';
import { bodyPieces } from '@/server/services/streams';

/**
 * A package on its way to the handset; it is judged before the handset gets any of it, and nothing of it is
 * kept.
 */
export const PUT = guarded<{ readonly params: Promise<{ id: string }> }>(async (request, { params }) => {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  const { roundId, version, size, name } = await sideloadSchema.validate({
    ...query,
    roundId: (await params).id,
  });
  await sideloadStep(roundId, version, { size, fileName: name, pieces: bodyPieces(request) });
  return Response.json({ ok: true });
});

import { buildPackageSchema, sentFilesSchema } from '@/contracts/round-inputs';
import { EternoError } from '@/core/errors';
import { writeBuildFrom } from '@/server/rounds/build-package';
import { guarded } from '@/server/services/request-guard';
import { bodyPieces, cutPieces, joined } from '@/server/services/streams';

/**
 * The package of a whole build on its way to the handset: a list of its files as JSON, then the files one
 * after another. It lies on this computer only while it is written.
 */
export const PUT = guarded<{ readonly params: Promise<{ id: string }> }>(async (request, { params }) => {
  const query = Object.fromEntries(new URL(request.url).searchParams);
  const { roundId, version, head } = await buildPackageSchema.validate({
    ...query,
    roundId: (await params).id,
  });
  const cut = cutPieces(bodyPieces(request));
  const files = await sentFilesSchema.validate(parse(await joined(cut(head))));
  await writeBuildFrom(roundId, version, { files, cut });
  return Response.json({ ok: true });
});

function parse(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(bytes));
  } catch (thrown) {
    throw new EternoError('bad-field', 'The list of files in front of them is no JSON.', { cause: thrown });
  }
}

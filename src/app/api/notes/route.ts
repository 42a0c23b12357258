import { stepNoteSchema } from '@/contracts/inputs';
import { addNote, PICTURE_BYTES } from '@/server/services/note-service';
import { guarded } from '@/server/services/request-guard';
import { bodyBytes } from '@/server/services/streams';

/** A note at a round or one of its steps; the body is its picture, and empty where there is none. */
export const POST = guarded<unknown>(async (request) => {
  const { roundId, stepId, text } = await stepNoteSchema.validate(
    Object.fromEntries(new URL(request.url).searchParams),
    { stripUnknown: true },
  );
  const picture = await bodyBytes(request, PICTURE_BYTES);
  await addNote({ roundId, stepId: stepId ?? null, text, picture: picture.length === 0 ? null : picture });
  return Response.json({ kept: true });
});

import 'server-only';
import { createHash } from 'node:crypto';
import { EternoError } from '@/core/errors';
import { insertNote, listNotes } from '../repositories/module-repository';
import { stepsOf } from '../repositories/round-repository';
import { openInVault, putInVault, sizeInVault } from '../vault/vault';
import { now } from './clock';
import { publish } from './message-bus';
import { needRound } from '../rounds/round-context';
import { fileResponse, onePiece } from './streams';

/* Notes and pictures at a round or one of its steps; pictures lie in the vault under their hash. */

export const PICTURE_BYTES = 16 * 1024 * 1024;

/** What kind of picture the bytes are, by their beginning. @throws {EternoError} `unsupported` */
function mediaTypeOf(bytes: Uint8Array): 'image/png' | 'image/jpeg' | 'image/webp' {
  const begins = (...head: readonly number[]) => head.every((byte, i) => bytes[i] === byte);
  if (begins(0x89, 0x50, 0x4e, 0x47)) return 'image/png';
  if (begins(0xff, 0xd8, 0xff)) return 'image/jpeg';
  if (begins(0x52, 0x49, 0x46, 0x46) && bytes[8] === 0x57 && bytes[9] === 0x45) return 'image/webp';
  throw new EternoError('unsupported', 'A picture is a PNG, JPEG or WebP.');
}

export interface NoteInput {
  readonly roundId: string;
  readonly stepId: string | null;
  readonly text: string;
  readonly picture: Uint8Array | null;
}

/**
 * @throws {EternoError} `bad-field` for an empty note, `unsupported` for what is no picture, `too-large`,
 * `not-found`
 */
export async function addNote({ roundId, stepId, text, picture }: NoteInput): Promise<void> {
  const round = await needRound(roundId);
  if (text.trim() === '' && picture === null)
    throw new EternoError('bad-field', 'Write something, or add a picture.');
  if (stepId !== null && !(await stepsOf([roundId])).some((step) => step.id === stepId))
    throw new EternoError('not-found', 'There is no such step.');
  let kept: { readonly picture: string | null; readonly mediaType: string | null } = {
    picture: null,
    mediaType: null,
  };
  if (picture !== null) {
    if (picture.length > PICTURE_BYTES) throw new EternoError('too-large', 'A picture has at most 16 MiB.');
    const mediaType = mediaTypeOf(picture);
    const sha256 = createHash('sha256').update(picture).digest('hex');
    await putInVault('pictures', sha256, onePiece(picture), PICTURE_BYTES);
    kept = { picture: sha256, mediaType };
  }
  await insertNote({ roundId, stepId, text: text.trim(), ...kept, at: now() });
  publish({ type: 'round', roundId, version: round.version });
}

/** A picture that a note speaks of. @throws {EternoError} `not-found` */
export async function pictureResponse(sha256: string): Promise<Response> {
  const note = (await listNotes()).find((one) => one.picture === sha256);
  if (!note?.mediaType) throw new EternoError('not-found', 'There is no such picture.');
  const response = fileResponse(
    await openInVault('pictures', sha256),
    `${sha256.slice(0, 12)}.${note.mediaType.slice(6)}`,
  );
  response.headers.set('content-type', note.mediaType);
  response.headers.set('content-disposition', 'inline');
  return response;
}

/** Every picture with its size, for the vault's own check. */
export async function picturesKept(): Promise<
  { readonly shelf: 'pictures'; readonly sha256: string; readonly sizeBytes: number }[]
> {
  const out: { shelf: 'pictures'; sha256: string; sizeBytes: number }[] = [];
  for (const sha256 of new Set((await listNotes()).flatMap((note) => note.picture ?? [])))
    out.push({ shelf: 'pictures', sha256, sizeBytes: (await sizeInVault('pictures', sha256)) ?? 0 });
  return out;
}

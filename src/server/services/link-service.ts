import 'server-only';
import { EternoError, toEternoError } from '@/core/errors';
import type { HandsetLink, Listed } from '@/core/link/handset-link';
import { standInLink } from '@/link/stand-in-link';
import type { HandsetRow } from '../db/models';
import { isCableHeld } from './cable-desk';
import { cableLink } from './cable-link';
import { now } from './clock';
import { standInAddress } from './stand-in-service';

export type Linked = Pick<HandsetRow, 'id' | 'link' | 'profile'>;

/** Every mode of it is seen over a link. */
export const isLinked = ({ link, profile }: Pick<Linked, 'link' | 'profile'>) =>
  link === 'stand-in' && profile !== null;

/**
 * The port to a handset: the stand-in's, or the cable that a page of the browser holds.
 * @throws {EternoError} `refused` for one that has neither
 */
export function linkOf(handset: Linked, signal?: AbortSignal): HandsetLink {
  const { id, profile } = handset;
  if (isLinked(handset) && profile !== null) return standInLink(() => standInAddress(profile), signal);
  if (isCableHeld(id)) return cableLink(id, signal);
  throw new EternoError('refused', 'This handset is not linked: do the step by hand.');
}

const kept = new Map<string, { readonly at: number; readonly line: Promise<Listed | null> }>();

/**
 * Where a handset is listed, for pages that are looked at again and again: what was read at most `maxAgeMs`
 * ago counts, and all who ask at once share one reading. Null for one that is not linked, not listed, or
 * answers nonsense.
 */
export function listedNow(handset: Linked, maxAgeMs: number): Promise<Listed | null> {
  if (!isLinked(handset)) return Promise.resolve(null);
  const before = kept.get(handset.profile!);
  const age = before ? now() - before.at : -1;
  if (before && age >= 0 && age < maxAgeMs) return before.line;
  const line = linkOf(handset)
    .listed()
    .catch((thrown: unknown) => {
      // one that does not answer, or answers nonsense, is not listed; a fault of our own is one
      if (toEternoError(thrown).code !== 'internal') return null;
      throw thrown;
    });
  kept.set(handset.profile!, { at: now(), line });
  return line;
}

const NO_ROOT = { denied: 'denied on the handset', 'no-root': 'nothing on this system grants root' } as const;

/**
 * Asks for root and waits for the prompt on the handset.
 * @returns its user id
 * @throws {EternoError} `handset-refused` where it was denied
 */
export async function needRoot(link: HandsetLink): Promise<number> {
  const { granted, uid, reason } = await link.root();
  if (!granted)
    throw new EternoError('handset-refused', `Root was not granted: ${NO_ROOT[reason ?? 'denied']}.`);
  return uid;
}

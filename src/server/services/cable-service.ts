import 'server-only';
import type { CableSettings } from '@/contracts/cable-view';
import { EternoError } from '@/core/errors';
import { CABLE, CABLE_FOR } from '../db/setting-keys';
import { dropSetting, readSetting, writeSetting } from '../repositories/setting-repository';
import { needHandset } from './bench-reading';
import { dropCables } from './cable-desk';
import { now } from './clock';
import { isLinked } from './link-service';
import { needHome } from './practice-self';

/* Whether a page of the browser may work on handsets over its cable: off until it is switched on. */

export const cableForKey = (handsetId: string) => CABLE_FOR + handsetId;

export async function cableSwitchedOn(): Promise<number | null> {
  const kept = await readSetting(CABLE);
  return kept === null ? null : (JSON.parse(kept) as { readonly at: number }).at;
}

/**
 * Switched off, no page holds a handset any more.
 * @throws {EternoError} `refused` in practice, which reaches no real handset
 */
export async function switchCable(on: boolean): Promise<void> {
  if (on) needHome();
  if (on) return writeSetting(CABLE, JSON.stringify({ version: 1, at: now() }));
  await dropSetting(CABLE);
  dropCables();
}

export async function cableSettings(handsetId: string): Promise<CableSettings> {
  return {
    on: await cableSwitchedOn(),
    agreed: (await readSetting(cableForKey(handsetId))) !== null,
  };
}

/** The person read the caution for this handset, and it is theirs. @throws {EternoError} `not-found` */
export async function agreeToCable(handsetId: string): Promise<void> {
  await needHandset(handsetId);
  await writeSetting(cableForKey(handsetId), JSON.stringify({ version: 1, at: now() }));
}

/**
 * A page may hold this handset's cable.
 * @throws {EternoError} `not-found`; `refused` where it is switched off, nobody agreed to it for this handset, or
 *   the handset is linked otherwise
 */
export async function needCable(handsetId: string): Promise<void> {
  const handset = await needHandset(handsetId);
  const { on, agreed } = await cableSettings(handsetId);
  if (on === null) throw new EternoError('refused', 'The browser’s cable is switched off in the Store.');
  if (isLinked(handset)) throw new EternoError('refused', 'This handset is a stand-in: it has its own link.');
  if (!agreed) throw new EternoError('refused', 'Nobody agreed to the browser’s cable for this handset yet.');
}

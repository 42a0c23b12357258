import 'server-only';
import { EternoError } from '@/core/errors';
import type { Assumed } from '@/core/bench/planning-context';
import { contextOf } from '@/core/bench/planning-context';
import type { Bench } from '@/core/bench/bench';
import { PLAIN_LIMITS } from '../rounds/opening';
import type { KnownHandset } from './bench-reading';
import { needHandset, readBench, readSubject } from './bench-reading';
import { learnt } from './learnt-service';

/* A handset of one's own as a scene of practice: what is known of it, as a stand-in can be made of that. */

export interface OwnScene extends Assumed {
  readonly subject: KnownHandset;
  readonly bench: Bench;
}

/** @returns what has to be known first, where something has. @throws {EternoError} `not-found` */
export async function ownScene(handsetId: string): Promise<OwnScene | string> {
  const [subject, bench] = [await readSubject(await needHandset(handsetId)), await readBench()];
  const wish = { goal: null, target: null, limits: PLAIN_LIMITS };
  const assumed = contextOf(subject, bench, wish, await learnt());
  return typeof assumed === 'string' ? assumed : { ...assumed, subject, bench };
}

/**
 * @returns its id
 * @throws {EternoError} `refused` where too little of it is known, `not-found`, `bad-field` for none
 */
export async function needOwnScene(handsetId: string | null): Promise<string> {
  if (handsetId === null) throw new EternoError('bad-field', 'Choose the handset that is to be copied.');
  const own = await ownScene(handsetId);
  if (typeof own === 'string') throw new EternoError('refused', own);
  return handsetId;
}

import { STAND_IN_WAYS } from '@/core/handset/own-ways';
import type { WayId, WaySureness, WayValue, WayValues } from '@/core/ways/way-kinds';
import { insertWay } from '@/server/repositories/way-repository';
import { at } from './world';

/* What the club has learnt of the ways of its models: what was done there was seen, of the rest little is known. */

type StandInWay = keyof typeof STAND_IN_WAYS;

/** Ways of a handset that was unlocked, rooted and updated by the club. */
const DONE: readonly StandInWay[] = [
  'keys-off',
  'keys-bootloader',
  'keys-recovery',
  'keys-loop',
  'screen-bootloader',
  'screen-recovery',
  'menu-moves',
  'line-start',
  'line-recovery',
  'line-userspace',
  'line-cache',
  'line-erase',
  'line-unlock',
  'line-lock',
  'setting-unlock',
  'ask-restart',
];
const IN_LIFEBOAT: readonly StandInWay[] = ['line-install', 'line-keep-storage', 'line-format'];
const IN_DOWNLOAD: readonly StandInWay[] = ['keys-download', 'keys-unlock', 'screen-download'];
const BY_SIDELOAD: readonly StandInWay[] = ['line-sideload', 'screen-sideload'];

interface Learnt {
  readonly model: string;
  readonly of: string;
  readonly on: string;
  readonly seen: readonly StandInWay[];
  readonly more?: WayValues;
}
const LEARNT: readonly Learnt[] = [
  { model: 'petrel1', of: 'Ridge camera', on: '2026-05-02T15:00:00Z', seen: [...DONE, ...IN_LIFEBOAT] },
  { model: 'petrel2', of: 'North gate counter', on: '2026-09-12T10:30:00Z', seen: DONE },
  {
    model: 'slate8',
    of: 'Barn tablet',
    on: '2026-04-04T10:50:00Z',
    seen: [...DONE.filter((id) => id !== 'line-userspace'), ...IN_LIFEBOAT, ...IN_DOWNLOAD],
    more: { 'fuse-reacts': 'a foreign write' },
  },
  {
    model: 'tarn',
    of: 'Spare',
    on: '2026-07-12T11:35:00Z',
    seen: ['keys-off', 'keys-bootloader', 'keys-recovery', 'screen-recovery', 'menu-moves', ...BY_SIDELOAD],
  },
];

const say = (model: string, way: WayId, value: WayValue, sureness: WaySureness, of: string, on: string) =>
  insertWay({ model, way, value, sureness, source: `you, with ${of}`, at: at(on) });

export async function recordWays(): Promise<void> {
  for (const { model, of, on, seen, more = {} } of LEARNT) {
    for (const id of seen) await say(model, id, STAND_IN_WAYS[id], 'seen done', of, on);
    for (const [id, value] of Object.entries(more))
      await say(model, id as WayId, value as WayValue, 'only said', of, on);
  }
}

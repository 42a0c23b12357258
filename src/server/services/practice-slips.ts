import 'server-only';
import type { SlipsOfPractice } from '@/contracts/practice-view';
import type { SlipCounts, SlipId } from '@/core/planning/slips';
import { SLIPS } from '@/core/planning/slips';
import { PRACTICE_WEIGHT } from '@/core/practice/scene';
import { PRACTICE_SLIPS } from '../db/setting-keys';
import { readSetting, writeSetting } from '../repositories/setting-repository';

/* How often the usual slips happened in practice: kept apart from the log, and weighed only where the person wants it. */

const SLIP_IDS = Object.keys(SLIPS) as readonly SlipId[];
const MOST = 10_000;

const keep = (slips: SlipsOfPractice) =>
  writeSetting(PRACTICE_SLIPS, JSON.stringify({ version: 1, ...slips }));

export async function slipsOfPractice(): Promise<SlipsOfPractice> {
  const told = await readSetting(PRACTICE_SLIPS);
  if (told === null) return { counts: {}, weight: null };
  const { counts, weight } = JSON.parse(told) as SlipsOfPractice;
  return { counts, weight };
}

const whole = (value: unknown) =>
  typeof value === 'number' && Number.isInteger(value) && value >= 0 ? Math.min(value, MOST) : 0;

/** @param told as another process says it: what is no count there is none */
export async function addSlips(told: SlipCounts): Promise<void> {
  const { counts, weight } = await slipsOfPractice();
  const sum = SLIP_IDS.map((id) => {
    const of = (key: 'slips' | 'chances') => (counts[id]?.[key] ?? 0) + whole(told[id]?.[key]);
    return [id, { slips: of('slips'), chances: of('chances') }] as const;
  });
  await keep({ counts: Object.fromEntries(sum), weight });
}

export const weighPractice = async (on: boolean): Promise<void> =>
  keep({ ...(await slipsOfPractice()), weight: on ? PRACTICE_WEIGHT : null });

/** What was counted on one's own handsets, and of practice the share that it weighs. */
export async function withPractice(own: SlipCounts): Promise<SlipCounts> {
  const { counts, weight } = await slipsOfPractice();
  if (weight === null) return own;
  const both = SLIP_IDS.map((id) => {
    const of = (key: 'slips' | 'chances') => (own[id]?.[key] ?? 0) + weight * (counts[id]?.[key] ?? 0);
    return [id, { slips: of('slips'), chances: of('chances') }] as const;
  });
  return Object.fromEntries(both);
}

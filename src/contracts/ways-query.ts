import type { StringSchema } from 'yup';
import { string } from 'yup';
import type { WaysWish } from '@/core/bench/planning-context';
import { CAUTIONS, PLAIN_LIMIT } from '@/core/modules/switch-off';
import type { GoalId, Limits } from '@/core/planning/context';
import { GOAL_WORDS } from '@/core/planning/goals';

/*
 * What is wanted of a round and within which limits, as an address holds it: one table for both directions.
 */

export type LimitKey = Exclude<keyof Limits, 'modules' | 'modulesLimit' | 'install' | 'suppose'>;

/** Each limit's word in the address, and what stands there where it holds and where it does not. */
const FLAGS = {
  computer: ['computer', 'yes', 'no'],
  wipeAllowed: ['wipe', 'yes', 'no'],
  keepFuse: ['fuse', 'keep', 'no'],
  secondHandset: ['host', 'handset', 'computer'],
  oneSlot: ['slots', 'one', 'both'],
  imageBackup: ['image', 'first', 'no'],
  patchThere: ['patch', 'there', 'here'],
  patchedElsewhere: ['brought', 'yes', 'no'],
  seenFirst: ['seen', 'first', 'no'],
} as const satisfies Record<LimitKey, readonly [string, string, string]>;
const KEYS = Object.keys(FLAGS) as LimitKey[];
/** A computer is there unless it is said otherwise. */
const HOLDS_UNSAID: readonly LimitKey[] = ['computer'];

/**
 * Fields of the address for a schema: any short word, since anything but the known ones counts as not said.
 */
export const LIMIT_FIELDS = Object.fromEntries(
  [...KEYS.map((key) => FLAGS[key][0]), 'modules'].map((name) => [name, string().max(40)]),
) as Record<string, StringSchema>;

export type WaysQuery = Readonly<Record<string, string | number | undefined>>;

/** The address of the ways to a goal within limits; `target` null for the build that the goal is about. */
export function waysQuery(
  handset: string,
  goal: string,
  limits: Limits,
  target: string | null,
): Record<string, string> {
  const flags = KEYS.map((key) => [FLAGS[key][0], FLAGS[key][limits[key] === true ? 1 : 2]]);
  return {
    handset,
    goal,
    ...(Object.fromEntries(flags) as Record<string, string>),
    modules: limits.modules ?? 'by chance',
    limit: String(limits.modulesLimit ?? PLAIN_LIMIT),
    ...(limits.install === undefined ? {} : { install: limits.install }),
    ...(target === null ? {} : { target }),
  };
}

const SHA256 = /^[0-9a-f]{64}$/;
const isGoal = (text: unknown): text is GoalId => typeof text === 'string' && Object.hasOwn(GOAL_WORDS, text);

/**
 * What an address wants. Anything but a known goal asks for the likeliest one, anything but a known word for
 * what is usual.
 */
export function readWish({ goal, target, modules, limit, install, ...words }: WaysQuery): WaysWish {
  const flag = (key: LimitKey) => {
    const [name, yes, no] = FLAGS[key];
    return HOLDS_UNSAID.includes(key) ? words[name] !== no : words[name] === yes;
  };
  const limits = {
    ...(Object.fromEntries(KEYS.map((key) => [key, flag(key)])) as Record<LimitKey, boolean>),
    modules: CAUTIONS.find((one) => one === modules) ?? ('by chance' as const),
    ...(typeof limit === 'number' ? { modulesLimit: limit } : {}),
    ...(typeof install === 'string' && SHA256.test(install) ? { install } : {}),
  };
  return { goal: isGoal(goal) ? goal : null, target: typeof target === 'string' ? target : null, limits };
}

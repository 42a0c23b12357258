import type { WaitingReason, WaitingSays } from '../words/schedule';

/* Whether an update is waited with, and for what (docs/method.md, "Calendar"). */

export interface WaitingRule {
  /** So many days after it is out; 0 for at once. */
  readonly days: number;
  /** Until a kit is known to have worked on it. */
  readonly kit: boolean;
  /** Until so many of the handset's modules are known to work on it. */
  readonly modules: number;
}
export const NO_WAITING: WaitingRule = { days: 0, kit: false, modules: 0 };
export const MOST_DAYS = 120;

export interface WaitingInput {
  readonly buildId: string;
  readonly publishedAt: number;
  /** A kit has worked on this very build. */
  readonly kitKnown: boolean;
  /** Modules of the handset that are known to work on it, of how many. */
  readonly modulesKnown: number;
  readonly modules: number;
  /** Stretches in which nothing is changed. */
  readonly quiet: readonly { readonly from: number; readonly to: number; readonly what: string }[];
  readonly now: number;
}

export interface Waiting {
  readonly over: boolean;
  /** Until when by the days and quiet windows alone; null where something else is waited for. */
  readonly until: number | null;
  readonly says: WaitingSays;
}

const DAY_MS = 86_400_000;

export function waitingOf(rule: WaitingRule, input: WaitingInput): Waiting {
  const { buildId, publishedAt, kitKnown, modulesKnown, modules, quiet, now } = input;
  const ends = publishedAt + rule.days * DAY_MS;
  const window = quiet.find(({ from, to }) => from <= now && now < to);
  const wanted = Math.min(rule.modules, modules);
  const reasons: WaitingReason[] = [
    ...(now < ends ? [{ code: 'days', days: Math.ceil((ends - now) / DAY_MS) } as const] : []),
    ...(rule.kit && !kitKnown ? [{ code: 'kit' } as const] : []),
    ...(modulesKnown < wanted ? [{ code: 'modules', wanted, known: modulesKnown } as const] : []),
    ...(window ? [{ code: 'quiet', what: window.what } as const] : []),
  ];
  const says = { build: buildId, reasons };
  if (reasons.length === 0) return { over: true, until: null, says };
  const onlyTime = (!rule.kit || kitKnown) && modulesKnown >= wanted;
  return {
    over: false,
    until: onlyTime ? Math.max(now < ends ? ends : 0, window?.to ?? 0) : null,
    says,
  };
}

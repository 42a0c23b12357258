import type { Waiting, WaitingRule } from './waiting-rule';
import { NO_WAITING } from './waiting-rule';
import type { DueSays } from '../words/schedule';

/*
 * Waits that are over and changes that are not put back: what a person is told of in every room
 * (docs/method.md, "Calendar").
 */

export interface DueInput {
  readonly id: string;
  readonly name: string;
  /** Waits of the maker's or carrier's, and when they end; UTC milliseconds. */
  readonly clocks: readonly { readonly id: string; readonly what: string; readonly endsAt: number }[];
  readonly rule: WaitingRule;
  /** What the next build waits for by that rule; null where there is none. */
  readonly wait: (Waiting & { readonly buildId: string }) | null;
  readonly putBacks: readonly { readonly id: string; readonly what: string }[];
  /** An open round reminds of its put-backs itself. */
  readonly inRound: boolean;
}

export interface Due {
  /** The same as long as it is due, however often it is asked for. */
  readonly key: string;
  readonly says: DueSays;
  readonly handsetId: string;
  /** The handset's name. */
  readonly name: string;
}

const ruled = ({ days, kit, modules }: WaitingRule) =>
  days > NO_WAITING.days || kit || modules > NO_WAITING.modules;

/** @returns what is due now, and when the next wait ends by the clock alone, if one does */
export function duesOf(
  handsets: readonly DueInput[],
  now: number,
): { readonly dues: readonly Due[]; readonly nextAt: number | null } {
  const dues: Due[] = [];
  const ends: number[] = [];
  for (const { id, name, clocks, rule, wait, putBacks, inRound } of handsets) {
    const add = (key: string, says: DueSays) => dues.push({ key, says, handsetId: id, name });
    for (const clock of clocks) {
      if (clock.endsAt <= now) add(`clock-${clock.id}`, { code: 'clock-over', what: clock.what });
      else ends.push(clock.endsAt);
    }
    if (wait?.over && ruled(rule)) add(`wait-${id}-${wait.buildId}`, { code: 'waited', build: wait.buildId });
    if (wait && !wait.over && wait.until !== null) ends.push(wait.until);
    if (!inRound)
      for (const one of putBacks) add(`put-back-${one.id}`, { code: 'not-put-back', what: one.what });
  }
  return { dues, nextAt: ends.length === 0 ? null : Math.min(...ends) };
}

import type { Readiness } from '@/core/feasibility/readiness';
import type { Cadence } from '@/core/schedule/cadence';
import type { Waiting, WaitingRule } from '@/core/schedule/waiting-rule';

export type CalendarKind =
  'out' | 'expected' | 'round' | 'clock' | 'put back' | 'waiting ends' | 'own' | 'quiet';

/** Something on a day; times in UTC milliseconds. */
export interface CalendarItem {
  /** The same in every export, so that a calendar that has it already keeps one. */
  readonly uid: string;
  readonly kind: CalendarKind;
  readonly what: string;
  readonly from: number;
  /** Later than `from`. */
  readonly to: number;
  /** Whole days, not hours. */
  readonly allDay: boolean;
  readonly handset: { readonly id: string; readonly name: string } | null;
}

export interface CalendarHandset {
  readonly id: string;
  readonly name: string;
  readonly build: string | null;
  readonly waiting: { readonly buildId: string; readonly at: number } | null;
  readonly daysBehind: number;
  readonly cadence: Cadence;
  readonly rule: WaitingRule;
  readonly wait: Waiting | null;
  readonly readiness: Readiness;
  readonly putBacks: readonly { readonly id: string; readonly what: string; readonly openedAt: number }[];
  readonly clocks: readonly { readonly id: string; readonly what: string; readonly endsAt: number }[];
}

export interface CalendarView {
  /** Midnight of its first day. */
  readonly month: number;
  readonly now: number;
  readonly items: readonly CalendarItem[];
  readonly handsets: readonly CalendarHandset[];
  readonly own: readonly {
    readonly uid: string;
    readonly what: string;
    readonly from: number;
    readonly to: number;
    readonly quiet: boolean;
  }[];
}

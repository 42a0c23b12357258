import type { CalendarHandset } from '@/contracts/calendar-view';
import { listNames } from '@/ui/format';
import { readinessReasonWords } from '@/core/words/readiness';

export interface CalendarNext {
  readonly title: string;
  readonly sentence: string;
  readonly button: string;
  readonly href: string;
}

const names = (handsets: readonly CalendarHandset[]) => listNames(handsets.map(({ name }) => name));

/** The calendar in a line, and what to do about it: take what is ready, open what is not known, else wait. */
export function calendarNext(handsets: readonly CalendarHandset[]): CalendarNext {
  const bench = { button: 'To the bench', href: '/' };
  const behind = handsets.filter((one) => one.waiting !== null);
  if (behind.length === 0)
    return {
      title: 'Every handset is on the newest build known.',
      sentence: 'Nothing is to be done.',
      ...bench,
    };
  const title =
    behind.length === 1
      ? 'One update is out and not installed.'
      : `${behind.length} updates are out and not installed.`;
  // by the person's own rule
  const free = behind.filter((one) => one.wait?.over !== false);
  const ready = free.filter((one) => one.readiness.verdict === 'go');
  const [first] = ready;
  if (first) {
    const href = ready.length === 1 ? `/rounds/new?handset=${first.id}` : '/';
    return {
      title,
      sentence: `${names(ready)} can take ${ready.length === 1 ? 'its update' : 'their updates'} now.`,
      button: 'Compare the ways',
      href,
    };
  }
  const unopened = free.filter((one) => one.readiness.verdict === "can't tell");
  if (unopened.length > 0) {
    const builds = listNames([...new Set(unopened.map((one) => one.waiting!.buildId))]);
    return {
      title,
      sentence: `Open ${builds}: the package tells whether ${names(unopened)} can take it.`,
      button: 'Open Firmware',
      href: '/firmware',
    };
  }
  const held = free[0];
  if (held)
    return {
      title,
      sentence: `${names(free)} ${free.length === 1 ? 'is' : 'are'} held: ${held.readiness.reasons.map(readinessReasonWords).join('; ')}.`,
      ...bench,
    };
  return { title, sentence: `By your own rules, all of them still wait.`, ...bench };
}

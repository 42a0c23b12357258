import type { RootState } from './continuity';

export interface NextInput {
  readonly root: RootState;
  readonly openRound: { readonly title: string; readonly step: string } | null;
  readonly installedBuild: string | null;
  /** The newest build known for this handset, and when it came out. */
  readonly newest: { readonly buildId: string; readonly publishedAt: number } | null;
  readonly unlocked: boolean | null;
  readonly rootPartition: string | null;
  /** Two sources that contradict each other, in words. */
  readonly contradiction: string | null;
  /**
   * What the newest build still waits for by the person's own rule, in words; null where it waits for
   * nothing.
   */
  readonly waits: string | null;
  /** Waits that have ended, in words: an unlock switch, a mailed code. */
  readonly ended: readonly string[];
  readonly now: number;
}

export interface NextStep {
  readonly sentence: string;
  readonly button: string;
  readonly goes: 'round' | 'start-round' | 'handset' | 'before-wipe' | 'contradiction' | 'ways' | 'calendar';
  /** Whether the person is needed now. */
  readonly urgent: boolean;
  readonly daysBehind: number;
  /** What the newest build waits for, where the sentence is about something else. */
  readonly meanwhile: string | null;
}

const DAY_MS = 86_400_000;

/** One sentence and one button: what comes next for a handset, and why. */
export function whatComesNext(input: NextInput): NextStep {
  const {
    root,
    openRound,
    installedBuild,
    newest,
    unlocked,
    rootPartition,
    contradiction,
    waits,
    ended,
    now,
  } = input;
  const behind = newest !== null && installedBuild !== null && newest.buildId !== installedBuild;
  const daysBehind = behind ? Math.max(0, Math.floor((now - newest.publishedAt) / DAY_MS)) : 0;
  const next = (sentence: string, button: string, goes: NextStep['goes'], urgent = false): NextStep => ({
    sentence,
    button,
    goes,
    urgent,
    daysBehind,
    // whoever has begun a round has decided
    meanwhile: behind && !openRound && waits !== sentence ? waits : null,
  });
  if (openRound) return next(`${openRound.title} is open. Next: ${openRound.step}.`, 'Go on', 'round', true);
  if (installedBuild === null)
    return next(
      'Its build is not known yet. Paste what it prints, or read it over the link.',
      'Tell Eterno its build',
      'handset',
      true,
    );
  if (contradiction !== null)
    return next(
      `${contradiction} Nothing is written until that is settled.`,
      'Settle it',
      'contradiction',
      true,
    );
  if (ended.length > 0)
    return next(`${ended.join('; ')}: that wait is over.`, 'See the calendar', 'calendar', true);
  if (unlocked === false)
    return next(
      'Locked, so nothing can be written. Unlocking erases it: see what is known before you decide.',
      'See what is known',
      'before-wipe',
    );
  if (root === 'lost')
    return next(
      `Root was lost. Take ${rootPartition ?? 'the image'} out of ${installedBuild}, patch it, write it, prove it.`,
      'Start the round',
      'start-round',
      true,
    );
  if (root === 'broken')
    return next(
      'It does not start. Write the stock image of its build back from the vault.',
      'Start the round',
      'start-round',
      true,
    );
  if (root === 'unproven')
    return next(
      'You said that root works. Eterno has not proved it yet.',
      'Start the round',
      'start-round',
      true,
    );
  if (behind && waits !== null) return next(waits, 'See the calendar', 'calendar');
  if (behind)
    return next(
      `${newest.buildId} is out. Compare the ways to it before you take it.`,
      'Compare the ways',
      'ways',
    );
  if (root === 'proven')
    return next('Root is proved and the build is the newest known. Nothing to do.', 'See it', 'handset');
  if (root === 'unknown') {
    const doing = `A round takes ${rootPartition ?? 'the image'} out of ${installedBuild}, patches it and proves it.`;
    return next(`Whether it has root is not known. ${doing}`, 'Start the round', 'start-round');
  }
  return next(
    `Not rooted. Take ${rootPartition ?? 'the image'} out of ${installedBuild}, patch it, write it, prove it.`,
    'Start the round',
    'start-round',
  );
}

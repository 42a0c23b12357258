import type { RootAppChannel, RootAppFinding } from '../words/root-app';

/* Whether the root app fits the kit that runs: one pair, seen, and kept as it is (docs/method.md, "Root app"). */

/** The app as it was read or said; null for what was not. */
export interface RootApp {
  readonly versionCode: number | null;
  readonly channel: RootAppChannel | null;
  readonly hidden: boolean | null;
  /** It takes no update of itself. */
  readonly pinned: boolean | null;
}

/** The kit in the image that runs. */
export interface CoreKit {
  /** With its version. */
  readonly name: string;
  readonly versionCode: number;
  readonly channel: RootAppChannel;
  /** The least version of its app; null where it states none. */
  readonly leastApp: number | null;
}

export interface RootAppJudged {
  /** Null where what matters was not read. */
  readonly fits: boolean | null;
  readonly findings: readonly RootAppFinding[];
}

/** @param kit null where no image of a known kit is known to run */
export function judgeRootApp(app: RootApp, kit: CoreKit | null): RootAppJudged {
  const findings: RootAppFinding[] = [];
  if (app.hidden === true) findings.push({ code: 'hidden' });
  if (app.versionCode === null) findings.push({ code: 'unread' });
  else if (kit !== null) findings.push(pairOf(app.versionCode, kit));
  if (app.channel !== null && kit !== null && app.channel !== kit.channel)
    findings.push({ code: 'other-channel', app: app.channel, kit: kit.channel });
  if (app.pinned === false) findings.push({ code: 'unpinned' });
  const wrong = findings.some(({ code }) => code === 'hidden' || code === 'too-old');
  const told = app.hidden !== null && app.versionCode !== null && kit !== null;
  return { fits: wrong ? false : told ? true : null, findings };
}

function pairOf(has: number, { name: kit, versionCode: core, leastApp }: CoreKit): RootAppFinding {
  if (leastApp !== null && has < leastApp) return { code: 'too-old', has, least: leastApp, kit };
  return has > core ? { code: 'newer', has, core, kit } : { code: 'fits', has, kit };
}

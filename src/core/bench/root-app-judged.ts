import type { RootAppJudged } from '../root-app/judge-root-app';
import { judgeRootApp } from '../root-app/judge-root-app';
import type { RootAppChannel } from '../words/root-app';
import { CHANNEL_WORDS } from '../words/root-app';
import type { Bench, Subject } from './bench';
import { flagSaid } from '../facts/flag-said';
import { kitItem, kitOnIt } from './judgements';

const isChannel = (text: string | null): text is RootAppChannel =>
  text !== null && Object.hasOwn(CHANNEL_WORDS, text);

/**
 * The root app of a handset against the kit whose image runs there.
 * @returns null where nothing was ever read or said of one
 */
export function rootAppJudged(
  subject: Pick<Subject, 'facts' | 'cells'>,
  bench: Pick<Bench, 'images' | 'kits'>,
  partition: string | null,
): RootAppJudged | null {
  const { value } = subject.facts;
  const keys = ['rootAppVersion', 'rootAppChannel', 'rootAppHidden', 'rootAppPinned'] as const;
  if (keys.every((key) => value(key) === null)) return null;
  const told = Number(value('rootAppVersion') ?? '');
  const channel = value('rootAppChannel');
  const kit = kitOnIt(subject, bench, partition);
  return judgeRootApp(
    {
      versionCode: value('rootAppVersion') !== null && Number.isInteger(told) && told > 0 ? told : null,
      channel: isChannel(channel) ? channel : null,
      hidden: flagSaid(value('rootAppHidden')),
      pinned: flagSaid(value('rootAppPinned')),
    },
    kit && {
      name: kitItem(kit),
      versionCode: kit.versionCode,
      channel: isChannel(kit.channel) ? kit.channel : 'unofficial',
      leastApp: kit.leastApp,
    },
  );
}

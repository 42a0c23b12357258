import { cleanLines } from './clean-lines';
import { sightsOf } from './sights';

/**
 * Whether a text shows a shell that was another user before it was root: who is root in every shell was not
 * granted it by anybody.
 * @param text as it was printed or copied
 * @throws {EternoError} `too-large`
 */
export function refusedBefore(text: string): boolean {
  const users = cleanLines(text)
    .flatMap((line) => sightsOf(line) ?? [])
    .flatMap((sight) => (sight.kind === 'uid' ? [sight.uid] : []));
  const root = users.lastIndexOf(0);
  return root >= 0 && users.slice(0, root).some((uid) => uid !== 0);
}

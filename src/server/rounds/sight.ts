import 'server-only';
import type { RoundSight } from '@/contracts/round-view';
import { ifAnswers } from '@/core/link/if-answers';
import { loopWatch } from '@/core/link/loop-watch';
import { currentStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { HandsetLink } from '@/core/link/handset-link';
import { now } from '../services/clock';
import { isLinked, linkOf } from '../services/link-service';
import type { RoundContext } from './round-context';
import { roundContext } from './round-context';

/* What the link sees of a handset while its round waits for the person. */

const watches = new Map<string, () => Promise<boolean>>();

/** Whether it starts over and over by now; asked again and again while its round is looked at. */
export function startsOver({ handset }: Pick<RoundContext, 'handset'>): Promise<boolean> {
  const profile = handset.profile!;
  const watch = watches.get(profile) ?? loopWatch(linkOf(handset), now);
  watches.set(profile, watch);
  return watch();
}

/**
 * A start that no step asked for: the system that runs is another start than the one which was read last, and
 * no step since then may have started it.
 */
async function restarted({ steps, known }: RoundContext, link: HandsetLink): Promise<boolean> {
  const step = currentStep(steps);
  if (!step || DEEDS[step.key].readsAnew || DEEDS[step.key].starts) return false;
  const read = known.resolved.find(({ key }) => key === 'bootId');
  const started = steps.findLast(({ key, state }) => DEEDS[key].starts === true && state === 'done');
  // a start that a person did and showed by hand left no name
  if (!read || (started?.startedAt ?? 0) > read.at) return false;
  const bootId = (await ifAnswers(link.status()))?.bootId ?? null;
  return bootId !== null && bootId !== read.value;
}

/** What is seen of the handset at an open round; `fine` where nothing is to be said, or nothing can be seen. */
export async function sightOf(roundId: string): Promise<RoundSight> {
  const context = await roundContext(roundId);
  const { round, steps, handset } = context;
  if (round.state !== 'open' || !isLinked(handset) || steps.some(({ state }) => state === 'running'))
    return 'fine';
  // one that is being repaired was seen to loop already
  if (context.subject.root !== 'broken' && (await startsOver(context))) return 'loops';
  return (await restarted(context, linkOf(handset))) ? 'restarted' : 'fine';
}

import { onSlot } from '../handset/builds';
import { upperFirst } from '../words/sentence';
import type { ActionId } from './actions';
import type { GoalId, PlanContext, PlanState } from './context';
import { noRecoveryPlace, onlyBootFromMemory, runsNow } from './context';
import { hasHost } from './action-kit';
import { NO_LOOSE_BUILD } from './actions-bootloader';
import { NO_PACKAGE } from './actions-package';
import { lastingRoot, wantsRoot } from './goals';

/* A lane and what rules it out before any search (docs/method.md, "Lanes"). */

export interface Lane {
  readonly id: string;
  readonly title: string;
  readonly goals: readonly GoalId[];
  readonly actions: readonly ActionId[];
  /**
   * One of these has to be among its steps, else it would be another lane; the first one's refusal says why
   * it is impossible.
   */
  readonly decisive: readonly ActionId[];
  /** Whether it decides where it is taken; everywhere where this is absent. */
  readonly decidesAt?: (context: PlanContext, before: PlanState) => boolean;
  readonly forIt: string;
  readonly againstIt: string;
  /** What rules it out before any search, in one sentence; null where nothing does. */
  readonly ruledOut: (context: PlanContext) => string | null;
  /** Trial starts: a bad image costs one restart. */
  readonly trialStart: boolean;
  /** The new build is seen to start, without root, before it is rooted. */
  readonly seenFirst?: true;
}

export const needTwoSlots = ({ profile }: PlanContext) =>
  profile.slotCount === 2 ? null : 'It needs two slots, and this handset has one.';
export const needInstalledTarget = (context: PlanContext) =>
  context.target === runsNow(context) || context.orTarget === runsNow(context)
    ? null
    : 'It does not change the build, and another one is wanted.';
export const needOtherTarget = (context: PlanContext) =>
  context.target === runsNow(context) ? 'The build that is wanted is installed already.' : null;
export const needComputer = (context: PlanContext) => (hasHost(context) ? null : 'It needs a computer.');
export const needDownloadMode = ({ profile }: PlanContext) =>
  profile.hasDownload ? null : 'This handset has no download mode.';
export const needWaitingUpdate = ({ start }: PlanContext) =>
  start.update !== null ? null : 'No update waits on the other slot.';
export const needRoot = ({ start }: PlanContext) =>
  start.running?.rooted === true ? null : 'There is no root that could be proved.';
/** Where root sits nowhere, no lane leads to it. */
export const needRootPlace = ({ profile, goal }: PlanContext) =>
  profile.rootPartition === 'none' && (wantsRoot(goal) || goal === 'prove root')
    ? 'No partition of this handset carries root: its boot image has no ramdisk, and there is no init_boot and no recovery that could.'
    : null;
export const needKit = ({ kit }: PlanContext) =>
  kit === null ? 'No kit supports this release and the partition that carries root.' : null;
/** A repair never writes once more what was seen not to start. */
export function noSuchImageAgain({ goal, profile, start }: PlanContext): string | null {
  const image = start.images[onSlot(profile.rootPartition, start.active)];
  return goal === 'repair' && image?.patchedBy && image.broken !== null
    ? 'A patched image lies there and does not start, and this writes one again.'
    : null;
}
export const needRecovery = ({ recovery }: PlanContext) =>
  recovery ? null : 'No recovery for this variant is in the vault.';
const sentence = (words: string) => `${upperFirst(words)}.`;
export function needRecoveryPlace(context: PlanContext): string | null {
  const shut = noRecoveryPlace(context);
  return shut === null ? null : sentence(shut);
}
export function needRecoveryFromMemory(context: PlanContext): string | null {
  const shut = onlyBootFromMemory(context);
  return shut === null ? null : sentence(shut);
}
/** What is installed lies in the vault whole, and says what it writes. */
export const needInstall = ({ install }: PlanContext) => (install ? null : sentence(NO_PACKAGE));
/** Where every bootloader takes any image, an older one is of no use. */
export function needLooseBuild({ profile, looseBuild }: PlanContext): string | null {
  if (profile.looseBuilds.length === 0)
    return 'Nobody has noted that its bootloader takes the maker’s own images only.';
  return looseBuild === undefined ? sentence(NO_LOOSE_BUILD) : null;
}
export const needStartsOnce = ({ profile }: PlanContext) =>
  profile.startsOnce ? null : 'Its bootloader starts nothing from memory.';
export const nothing = () => null;
export const first =
  (...checks: readonly ((context: PlanContext) => string | null)[]) =>
  (context: PlanContext) =>
    checks.map((check) => check(context)).find((reason) => reason !== null) ?? null;

export const runsRooted = (context: PlanContext) =>
  lastingRoot(context, { ...context.start, rootRequest: 'granted', rootApp: 'ready' })
    ? null
    : 'Root has to run already, because root itself does the writing.';

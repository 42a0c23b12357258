import { onSlot } from '../handset/builds';
import { SPENT, untried, withoutSystem } from '../handset/operated';
import type { HandsetProfile, HandsetState, ImageFacts, Slot, SlotState } from '../handset/state';
import { otherSlot, PLAIN_STATE, UNOPENED } from '../handset/state';
import type { PlanContext } from '../planning/context';
import { patchedImage, customRecovery, stockImage } from '../planning/context';
import type { Bench, KeptImage, Subject } from './bench';
import { otherSlotRead } from './unknowns';
import { bootloaderLevel } from './whole-build';
import { moduleIdsOf } from './modules-judged';
import { isKnown } from '../ways/speak';

/* Where a handset stands when a plan begins, as the machine has it. */

export interface StandsAt {
  readonly active: Slot;
  readonly locked: boolean;
  readonly rooted: boolean;
  /** Of the installed build. */
  readonly fingerprint: string;
  /** Of the build that an update brings, where one waits. */
  readonly waiting: string;
}

type Plan = Omit<PlanContext, 'start'>;

/** It does not start though its image is known to be the stock one of its build: what is left is its data. */
export function dataIsAtFault(
  { root, cells, facts }: Subject,
  { images }: Bench,
  partition: string,
): boolean {
  const { currentSlot, fingerprint } = facts.typed;
  const cell = cells.find(
    (one) => one.partition === partition && (one.slot === (currentSlot ?? '-') || one.slot === '-'),
  );
  const image = images.find((one) => one.sha256 === cell?.sha256);
  return root === 'broken' && image?.role === 'stock' && image.fingerprint === fingerprint;
}

export function startState(subject: Subject, bench: Bench, plan: Plan, at: StandsAt): HandsetState {
  const { root, facts } = subject;
  const { active, fingerprint, rooted } = at;
  const { profile } = plan;
  const waits = facts.value('snapshot') === 'snapshotted';
  const fuse = Number(facts.value('antiRollback') ?? 0);
  const { builds, images } = onItsSlots(subject, bench, plan, at);
  return {
    ...PLAIN_STATE,
    mode: root === 'broken' ? 'looping' : 'system',
    locked: at.locked,
    active: waits ? otherSlot(active) : active,
    slots: slotsOf(subject, profile, active),
    builds,
    images,
    running: root === 'broken' ? null : { slot: active, build: fingerprint, rooted },
    rootApp: rootAppOf(subject, rooted),
    unlockSwitch: unlockSwitchOf(facts.value('unlockAllowed')),
    update: waits ? { slot: otherSlot(active), build: at.waiting } : null,
    snapshot: facts.value('snapshot') === 'merging' ? 'merging' : waits ? 'waiting' : 'none',
    modules: {
      on: !subject.history.openPutBacks.some(({ kind }) => kind === 'modules-off'),
      ids: moduleIdsOf(subject),
    },
    // a handset that runs is not below its fuse
    floors: { bootloader: Math.max(bootloaderLevel(bench, fingerprint) ?? 0, fuse), fuse, index: 0 },
    ...insideRootOf(subject, at),
    record: { fuseBlown: fuseBlown(subject), writes: Number(facts.value('writeCounter') ?? 0) || 0 },
    data: dataOf(subject, bench, plan, fingerprint),
  };
}

/** Root on a handset that is locked can only have been let in from inside. */
function insideRootOf(
  { ways }: Pick<Subject, 'ways'>,
  { locked, rooted }: StandsAt,
): Pick<HandsetState, 'insideRoot'> {
  if (!locked || !rooted) return {};
  const lasts = ways('inside-lasts');
  return { insideRoot: isKnown(lasts) ? lasts.value : 'until restart' };
}

/** As it was read or said; where nobody did, it is taken as blown where the handset was rooted once. */
function fuseBlown({ root, facts }: Pick<Subject, 'root' | 'facts'>): boolean {
  const told = facts.value('fuse')?.toLowerCase() ?? '';
  if (/\bblown\b/.test(told)) return true;
  if (/\b(whole|intact)\b/.test(told)) return false;
  return root !== 'stock' && root !== 'unknown';
}

/** The slot that runs starts; of the other what was read, and where nothing was, nothing falls back to it. */
function slotsOf(subject: Subject, profile: HandsetProfile, active: Slot): HandsetState['slots'] {
  const { value } = subject.facts;
  const other = otherSlot(active);
  const starts = { bootable: true, proven: true, triesLeft: profile.triesPerSlot };
  const there = (): SlotState => {
    if (value('snapshot') === 'snapshotted') return untried(profile);
    if (!otherSlotRead(subject) || value(`slot-unbootable:${other}`) === 'true') return SPENT;
    return value(`slot-successful:${other}`) === 'false'
      ? {
          ...starts,
          proven: false,
          triesLeft: Number(value(`slot-retry-count:${other}`) ?? profile.triesPerSlot),
        }
      : starts;
  };
  const slots = active === 'a' ? { a: starts, b: there() } : { a: there(), b: starts };
  return value('snapshot') === 'merging' && profile.mergesUpdates ? withoutSystem(slots, other) : slots;
}

function rootAppOf({ root, facts }: Subject, rooted: boolean): HandsetState['rootApp'] {
  if (facts.value('rootApp') === 'unfinished') return 'unfinished';
  return rooted || root === 'lost' ? 'ready' : 'absent';
}

const unlockSwitchOf = (told: string | null): HandsetState['unlockSwitch'] =>
  // once what hides it is off, it can be turned on
  told === 'hidden' ? 'off' : told === 'off' || told === 'greyed' || told === 'absent' ? told : 'on';

const dataOf = (
  subject: Subject,
  bench: Bench,
  { profile }: Plan,
  fingerprint: string,
): HandsetState['data'] => ({
  ...PLAIN_STATE.data,
  encrypted: subject.facts.value('encrypted') !== 'false',
  committedBy: fingerprint,
  keyLevel: dataIsAtFault(subject, bench, profile.rootPartition) ? UNOPENED : subject.facts.dataPatchLevel,
});

/** What waits there is what the update brought, whatever was read before it; null where nothing tells. */
const buildOnOther = (
  { facts }: Subject,
  { waiting }: StandsAt,
  read: readonly (string | null)[],
): string | null =>
  facts.value('snapshot') === 'snapshotted' ? waiting : (read.find((one) => one !== null) ?? null);

/** Builds and images of both slots, from what was told of each partition. */
function onItsSlots(
  subject: Subject,
  bench: Bench,
  plan: Plan,
  at: StandsAt,
): Pick<HandsetState, 'builds' | 'images'> {
  const { active, fingerprint, rooted } = at;
  const { cells, root } = subject;
  const { profile } = plan;
  const held = (sha256: string | null) => bench.images.find((image) => image.sha256 === sha256);
  const onOther = cells
    .filter(({ slot }) => slot !== active && slot !== '-')
    .map(({ sha256 }) => held(sha256)?.fingerprint ?? null);
  const other = buildOnOther(subject, at, onOther) ?? fingerprint;
  const builds = { a: active === 'a' ? fingerprint : other, b: active === 'b' ? fingerprint : other };
  const lost = otherIsLost(subject, plan, onOther);
  const images: Record<string, ImageFacts> = {};
  for (const slot of profile.slotCount === 2 ? (['a', 'b'] as const) : ([active] as const))
    for (const partition of Object.keys(profile.partitionBytes)) {
      const cell = cells.find(
        (one) => one.partition === partition && (one.slot === slot || one.slot === '-'),
      );
      const image = held(cell?.sha256 ?? null);
      const broken = whyBroken(
        plan,
        cell?.verdict === 'unknown',
        lost && slot !== active,
        image === undefined,
      );
      images[onSlot(partition, slot)] = lyingThere(plan, partition, image, builds[slot], broken);
    }
  const key = onSlot(profile.rootPartition, active);
  if (rooted) images[key] = patchedImage(plan, fingerprint);
  if (root === 'broken' && !dataIsAtFault(subject, bench, profile.rootPartition))
    images[key] = { ...images[key]!, broken: images[key]!.broken ?? 'it does not start' };
  return { builds, images };
}

/**
 * For a repair the other slot counts only where it is known what it holds, and where no update has merged
 * over it.
 */
const otherIsLost = ({ facts }: Subject, { goal, profile }: Plan, builds: readonly (string | null)[]) =>
  goal === 'repair' &&
  (builds.every((one) => one === null) ||
    (profile.mergesUpdates && facts.value('snapshot') !== 'snapshotted'));

/**
 * Why what lies on a partition counts as what does not start; null where it is taken for what it was told to
 * be.
 */
function whyBroken({ goal }: Plan, cutShort: boolean, lost: boolean, neverRead: boolean): string | null {
  if (cutShort) return 'its write was cut short';
  if (lost) return 'nobody knows whether it is whole';
  // locking trusts nothing that was not seen
  return goal === 'lock again' && neverRead ? 'it was never read' : null;
}

function lyingThere(
  plan: Plan,
  partition: string,
  image: KeptImage | undefined,
  onSlotBuild: string,
  broken: string | null,
): ImageFacts {
  const build = image?.fingerprint ?? onSlotBuild;
  if (broken !== null) return { ...stockImage(partition, build), broken };
  if (image?.role === 'patched') return patchedImage(plan, build);
  return image?.role === 'recovery' ? customRecovery(plan, build) : stockImage(partition, build);
}

import { onSlot } from '../handset/builds';
import type { ActionId } from './actions';
import type { GoalId, PlanContext } from './context';
import { runsNow } from './context';
import { lastingRoot } from './goals';

/* The schools: ways of doing a round, each with its steps, its needs and its arguments (docs/method.md, "Lanes"). */

export interface Lane {
  readonly id: string;
  readonly title: string;
  readonly goals: readonly GoalId[];
  readonly actions: readonly ActionId[];
  /** One of these has to be among its steps, else it would be another lane; the first one's refusal says why it is impossible. */
  readonly decisive: readonly ActionId[];
  readonly forIt: string;
  readonly againstIt: string;
  /** What rules it out before any search, in one sentence; null where nothing does. */
  readonly ruledOut: (context: PlanContext) => string | null;
  /** Trial starts: a bad image costs one restart. */
  readonly trialStart: boolean;
}

const ROOT_GOALS: readonly GoalId[] = ['first root', 'root again'];
const EVERY_ROOT: readonly GoalId[] = [...ROOT_GOALS, 'monthly update'];
const IMAGE_HERE = ['open-installed-package', 'take-stock', 'patch'] as const satisfies readonly ActionId[];
const TARGET_IMAGE_HERE = ['open-target-package', 'take-target-stock', 'patch-target'] as const satisfies readonly ActionId[];
/** With it comes the one that carries root. */
const WHOLE_HERE = [
  'open-installed-package',
  'take-stock',
  'open-target-package',
  'take-whole',
  'patch-target',
] as const satisfies readonly ActionId[];
const UNLOCKING = ['unlock-switch', 'ask-code', 'download', 'unlock'] as const satisfies readonly ActionId[];
const PROVING = ['start', 'finish-start', 'debugging', 'prove-root', 'finish-root-app', 'merge'] as const satisfies readonly ActionId[];

const needTwoSlots = ({ profile }: PlanContext) => (profile.slotCount === 2 ? null : 'It needs two slots, and this handset has one.');
const needInstalledTarget = (context: PlanContext) =>
  context.target === runsNow(context) ? null : 'It does not change the build, and another one is wanted.';
const needOtherTarget = (context: PlanContext) => (context.target === runsNow(context) ? 'The build that is wanted is installed already.' : null);
const needComputer = ({ limits }: PlanContext) => (limits.computer ? null : 'It needs a computer.');
const needKit = ({ kit }: PlanContext) => (kit === null ? 'No kit supports this release and the partition that carries root.' : null);
const nothing = () => null;
const first =
  (...checks: readonly ((context: PlanContext) => string | null)[]) =>
  (context: PlanContext) =>
    checks.map((check) => check(context)).find((reason) => reason !== null) ?? null;

const runsRooted = (context: PlanContext) =>
  lastingRoot(context, { ...context.start, rootRequest: 'granted', rootApp: 'ready' })
    ? null
    : 'Root has to run already, because root itself patches the other slot.';

export const LANES: readonly Lane[] = [
  {
    id: 'one-image-once',
    title: 'One image, written once',
    goals: [...ROOT_GOALS, 'repair'],
    actions: [...IMAGE_HERE, ...UNLOCKING, 'bootloader', 'write-root', ...PROVING],
    decisive: ['write-root'],
    forIt: 'fewest writes',
    againstIt: 'no trial start',
    ruledOut: first(needComputer, needKit, needInstalledTarget),
    trialStart: false,
  },
  {
    id: 'start-once-make-lasting',
    title: 'Start once, then make lasting',
    goals: ROOT_GOALS,
    actions: [...IMAGE_HERE, ...UNLOCKING, 'bootloader', 'start-once', 'make-lasting', ...PROVING],
    decisive: ['start-once'],
    forIt: 'a bad image costs one restart',
    againstIt: 'not for init_boot; what is made lasting may be other bytes than those tried, so it is proved again',
    ruledOut: first(needComputer, needKit, needInstalledTarget),
    trialStart: true,
  },
  {
    id: 'update-in-place-other-slot',
    title: 'Update in place and patch the other slot',
    goals: ['monthly update'],
    actions: [
      ...IMAGE_HERE,
      'prove-root',
      'modules-off',
      'stock-back',
      'take-update',
      'take-full-update',
      'patch-other-slot',
      'start',
      'finish-root-app',
      'merge',
      'modules-on',
    ],
    decisive: ['patch-other-slot'],
    forIt: 'no computer for the update itself; keeps root, modules and data',
    againstIt: 'order is everything: four restart offers to refuse, one to take',
    ruledOut: first(needTwoSlots, needKit, needOtherTarget, runsRooted),
    trialStart: true,
  },
  {
    id: 'whole-build-patched',
    title: 'Whole build from the computer, patched before its first start',
    goals: ['monthly update'],
    actions: [...WHOLE_HERE, 'prove-root', 'modules-off', 'cancel-update', 'bootloader', 'write-build-patched', ...PROVING, 'modules-on'],
    decisive: ['write-build-patched'],
    forIt: 'root from the first start; works after a refused update',
    againstIt: 'big download; bootloader and radio are written too',
    ruledOut: first(needComputer, needKit, needOtherTarget),
    trialStart: false,
  },
  {
    id: 'whole-build-then-root',
    title: 'Whole build without wiping, then root again',
    goals: ['monthly update', 'downgrade'],
    actions: [
      'auto-update-off',
      ...WHOLE_HERE,
      'patch',
      'prove-root',
      'modules-off',
      'cancel-update',
      'bootloader',
      'write-build',
      'write-root',
      ...PROVING,
      'modules-on',
    ],
    decisive: ['write-build'],
    forIt: 'simplest to follow',
    againstIt: 'it starts without root once; root is put back by hand',
    ruledOut: first(needComputer, needKit, needOtherTarget),
    trialStart: false,
  },
  {
    id: 'firmware-set-patched',
    title: 'Firmware set with the patched archive',
    goals: [...EVERY_ROOT, 'downgrade'],
    actions: [
      'auto-update-off',
      ...WHOLE_HERE,
      ...IMAGE_HERE,
      ...UNLOCKING,
      'prove-root',
      'modules-off',
      'bootloader',
      'download',
      'write-set-patched',
      'write-set-wipe',
      ...PROVING,
      'modules-on',
    ],
    decisive: ['write-set-patched', 'write-set-wipe'],
    forIt: 'one matched set',
    againstIt: 'long write; the fuse is blown; its first root wipes',
    ruledOut: first(needComputer, needKit, ({ profile }) => (profile.hasDownload ? null : 'This handset has no download mode.')),
    trialStart: false,
  },
  {
    id: 'through-the-recovery',
    title: 'Through a recovery of one’s own',
    goals: EVERY_ROOT,
    actions: [
      ...WHOLE_HERE,
      ...IMAGE_HERE,
      ...UNLOCKING,
      'bootloader',
      'recovery',
      'write-recovery',
      'root-zip',
      'write-build',
      ...PROVING,
      'modules-off',
      'modules-on',
    ],
    decisive: ['root-zip'],
    forIt: 'an image-level backup can come first',
    againstIt: 'it has to be entered at once; some systems put the stock recovery back',
    ruledOut: first(needComputer, ({ recovery }) => (recovery ? null : 'No recovery for this variant is in the vault.')),
    trialStart: false,
  },
  {
    id: 'write-a-recovery',
    title: 'Write the recovery',
    goals: ['keep a recovery'],
    actions: [...IMAGE_HERE, ...UNLOCKING, 'bootloader', 'recovery', 'write-recovery', 'root-zip', 'write-root', ...PROVING],
    decisive: ['write-recovery'],
    forIt: 'one write',
    againstIt: 'where it shares a ramdisk with root, root is put back after it',
    ruledOut: first(needComputer, ({ recovery }) => (recovery ? null : 'No recovery for this variant is in the vault.')),
    trialStart: false,
  },
  {
    id: 'stock-update-start-over',
    title: 'Back to stock, take the update, root again',
    goals: ['monthly update'],
    actions: [
      ...IMAGE_HERE,
      ...TARGET_IMAGE_HERE,
      'bootloader',
      'write-stock',
      'write-stock-recovery',
      'take-update',
      'take-full-update',
      'merge',
      'write-root',
      ...PROVING,
      'prove-root',
      'modules-off',
      'modules-on',
    ],
    decisive: ['write-stock'],
    forIt: 'the only way for some',
    againstIt: 'most restarts; without root in between',
    ruledOut: first(needComputer, needKit, needOtherTarget),
    trialStart: false,
  },
  {
    id: 'sideload',
    title: 'Sideload through the stock recovery',
    goals: ['monthly update', 'downgrade'],
    actions: [
      'auto-update-off',
      ...TARGET_IMAGE_HERE,
      'patch',
      'prove-root',
      'modules-off',
      'recovery',
      'sideload-mode',
      'sideload',
      'bootloader',
      'write-root',
      ...PROVING,
      'modules-on',
    ],
    decisive: ['sideload'],
    forIt: 'the system itself needs no unlocking',
    againstIt: 'only what the maker allows; going down erases',
    ruledOut: first(needComputer, needOtherTarget),
    trialStart: true,
  },
  {
    id: 'in-system-root',
    title: 'Root in the running system',
    goals: ['root without unlocking'],
    actions: ['start', 'open-root', 'prove-root'],
    decisive: ['open-root'],
    forIt: 'the fuse stays whole, nothing is erased',
    againstIt: 'gone at the next restart; few builds are open',
    ruledOut: ({ profile, start }) => (profile.openBuilds.includes(start.builds[start.active]) ? null : 'The installed build is closed to it.'),
    trialStart: true,
  },
  {
    id: 'stock-images-back',
    title: 'Stock images back',
    goals: ['return to stock', 'repair'],
    actions: ['open-installed-package', 'take-stock', 'bootloader', 'write-stock', 'write-stock-recovery', 'start', 'finish-start'],
    decisive: ['write-stock', 'write-stock-recovery'],
    forIt: 'fewest writes, keeps data',
    againstIt: 'the bootloader stays unlocked',
    ruledOut: first(needComputer),
    trialStart: false,
  },
  {
    id: 'lock-again',
    title: 'Stock on every slot, started once, then locked',
    goals: ['lock again'],
    actions: [
      'open-installed-package',
      'take-stock',
      'take-whole',
      'bootloader',
      'write-stock',
      'write-stock-recovery',
      'write-build-both',
      'start',
      'finish-start',
      'lock',
    ],
    decisive: ['lock'],
    forIt: 'the maker’s own locks hold again',
    againstIt: 'it erases everything, and over one changed partition the handset would never start again',
    ruledOut: first(needComputer),
    trialStart: false,
  },
  {
    id: 'other-slot',
    title: 'The other slot',
    goals: ['repair'],
    actions: ['bootloader', 'other-slot', 'start', 'finish-start', 'cancel-update'],
    decisive: ['other-slot'],
    forIt: 'nothing is written',
    againstIt: 'only while it is whole, unmerged, and its build can read the data',
    ruledOut: first(needComputer, needTwoSlots, (context) => {
      const other = context.start.active === 'a' ? 'b' : 'a';
      return context.start.images[onSlot(context.profile.rootPartition, other)] ? null : 'The other slot is empty.';
    }),
    trialStart: false,
  },
  {
    id: 'whole-build-repair',
    title: 'The same or a newer whole build, without wiping',
    goals: ['repair', 'return to stock', 'downgrade'],
    actions: [
      'auto-update-off',
      'open-installed-package',
      'take-stock',
      'open-target-package',
      'take-whole',
      'bootloader',
      'write-build',
      'start',
      'finish-start',
    ],
    decisive: ['write-build'],
    forIt: 'everything of the system is whole afterwards',
    againstIt: 'big download; root, recovery and modules’ base go',
    ruledOut: first(needComputer, nothing),
    trialStart: false,
  },
];

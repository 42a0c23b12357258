import { onSlot } from '../handset/builds';
import type { ActionFacts, Applied, Effect } from './action-kit';
import {
  blowsFuse,
  buildAtActive,
  flagsBack,
  flagsFor,
  fromBootloader,
  hasHost,
  hasStockRecovery,
  needFlags,
  needPatched,
  needRebuilt,
  needWayBack,
  onHandset,
  overAnUpdate,
  withRecoveryThere,
  recoveryFlagsFor,
} from './action-kit';
import { lockHarm } from '../handset/operate-modes';
import { otherSlot } from '../handset/state';
import { BOOTLOADER_ACTIONS } from './actions-bootloader';
import { COMPUTER_ACTIONS } from './actions-computer';
import { MODULE_ACTIONS } from './actions-modules';
import { PACKAGE_ACTIONS } from './actions-package';
import { RECOVERY_ACTIONS } from './actions-recovery';
import { UPDATE_ACTIONS } from './actions-updates';
import type { PlanContext, PlanState } from './context';
import {
  RECOVERY_OPENED,
  hasMade,
  hasOwnPartition,
  NO_RECOVERY,
  noRecoveryPlace,
  patchedImage,
  customRecovery,
  stockImage,
} from './context';
import { goesToStock } from './goals';

/* What a plan can be made of. */

export interface PlanAction extends ActionFacts {
  readonly id: ActionId;
  /** The state after it, or why it can't be done now. */
  readonly apply: (context: PlanContext, state: PlanState) => Applied;
}

export type ActionId = keyof typeof ACTIONS;

const START: Effect = (_context, { handset }) => [
  handset.mode === 'off' ? { do: 'power-on' } : { do: 'restart' },
  { do: 'finish-start' },
];

const buildAtOther = ({ handset }: PlanState) => handset.builds[otherSlot(handset.active)];

export const ACTIONS = {
  ...COMPUTER_ACTIONS,
  debugging: onHandset(
    { title: 'Turn debugging on, trust this computer', minutes: [1, 3], who: 'handset' },
    (_context, { handset }) =>
      handset.settings.debugging ? 'it is on' : [{ do: 'set', settings: { debugging: true } }],
  ),
  'auto-update-off': onHandset(
    { title: 'Switch its own updates off', minutes: [0.5, 1], who: 'handset' },
    ({ goal }, { handset }) =>
      // only a build that is older than the newest has to be kept from it
      goal === 'downgrade' && handset.settings.autoUpdate
        ? [{ do: 'set', settings: { autoUpdate: false } }]
        : 'they stay as they are',
  ),
  'unlock-switch': onHandset(
    { title: 'Turn the unlock switch on', minutes: [1, 5], who: 'handset' },
    ({ goal }, { handset }) => {
      if (handset.unlockSwitch === 'on') return 'it is on already';
      return handset.locked || goal === 'lock again'
        ? [{ do: 'unlock-switch' }]
        : 'its bootloader is unlocked, and stays so';
    },
  ),
  unlock: onHandset(
    { title: 'Unlock the bootloader; this erases everything', minutes: [0.5, 5], risk: 2, who: 'handset' },
    ({ limits, profile }, state) => {
      if (!limits.wipeAllowed) return 'unlocking erases everything, and nothing may be erased';
      const over = overAnUpdate(state);
      if (over !== null) return over;
      return profile.unlockPath === 'mailed code' && !hasMade(state, 'code')
        ? 'its code has not come'
        : [{ do: 'unlock' }];
    },
  ),
  lock: onHandset(
    { title: 'Lock the bootloader; this erases everything', minutes: [0.5, 5], risk: 5, who: 'handset' },
    ({ limits, profile }, { handset }) => {
      if (!limits.wipeAllowed) return 'locking erases everything, and nothing may be erased';
      // once locked, the switch is the only way out again
      if (handset.unlockSwitch !== 'on') return `its unlock switch is ${handset.unlockSwitch}`;
      return lockHarm(profile, handset) ?? [{ do: 'lock' }];
    },
  ),
  bootloader: onHandset(
    { title: 'Bring it into its bootloader', minutes: [0.5, 1.5], who: 'handset' },
    (context) => (hasHost(context) ? [{ do: 'enter-bootloader' }] : 'no computer is at hand'),
  ),
  recovery: onHandset(
    { title: 'Bring it into its recovery', minutes: [0.5, 1.5], who: 'handset' },
    () => [{ do: 'enter-recovery' }],
    ({ profile }, { handset }) =>
      handset.images[onSlot(profile.recoveryHome, handset.active)]?.recovery ? [RECOVERY_OPENED] : [],
  ),
  download: onHandset(
    { title: 'Bring it into download mode', minutes: [0.5, 1.5], who: 'handset' },
    (context) => (hasHost(context) ? [{ do: 'enter-download' }] : 'no computer is at hand'),
  ),
  'sideload-mode': onHandset(
    { title: 'Choose the sideload in its recovery', minutes: [0.5, 1], who: 'handset' },
    () => [{ do: 'enter-sideload' }],
  ),
  start: onHandset({ title: 'Start the system', minutes: [1, 3], risk: 1, who: 'handset' }, START),
  'finish-start': onHandset({ title: 'Let it start', minutes: [2, 6], risk: 1, who: 'handset' }, () => [
    { do: 'finish-start' },
  ]),
  'start-with-recovery-keys': onHandset(
    { title: 'Start it with the keys of its recovery', minutes: [1, 4], risk: 1, who: 'handset' },
    ({ profile }) =>
      profile.rootPartition === 'recovery'
        ? [{ do: 'start-with-recovery-keys' }]
        : 'root comes up with every start',
  ),
  'prove-root': onHandset(
    { title: 'Ask for root and read the image back', minutes: [0.5, 1], who: 'handset' },
    (_context, { handset }) =>
      handset.rootRequest === 'granted'
        ? 'it is proved already'
        : !handset.settings.debugging
          ? 'its debugging is off'
          : [{ do: 'ask-root' }, { do: 'answer-root', allow: true }],
  ),
  'finish-root-app': onHandset({ title: 'Let the root app finish', minutes: [1, 3], who: 'handset' }, () => [
    { do: 'finish-root-app' },
  ]),
  'write-root': onHandset(
    { title: 'Write the patched image', minutes: [1, 2], risk: 1, writes: true },
    (context, state) => {
      const build = buildAtActive(state);
      const { active, images } = state.handset;
      const there = images[onSlot(context.profile.recoveryHome, active)];
      return fromBootloader(
        state,
        needPatched(context, state, build, there) ??
          needFlags(context, state, active, build) ?? [
            ...flagsFor(context, state, active, build),
            {
              do: 'write',
              partition: onSlot(context.profile.rootPartition, active),
              image: withRecoveryThere(context, there, patchedImage(context, build)),
            },
          ],
      );
    },
  ),
  'write-stock': onHandset(
    { title: 'Write the stock image', minutes: [1, 2], risk: 0.5, writes: true },
    (context, state) => {
      const build = buildAtActive(state);
      if (!hasMade(state, `stock ${build}`)) return 'its stock image is not in the vault';
      const flags = flagsBack(context, state, state.handset.active, build);
      if (typeof flags === 'string') return flags;
      return fromBootloader(state, [
        ...flags,
        {
          do: 'write',
          partition: onSlot(context.profile.rootPartition, state.handset.active),
          image: stockImage(context.profile.rootPartition, build),
        },
      ]);
    },
  ),
  'write-other-stock': onHandset(
    { title: 'Write the stock image to the other slot', minutes: [1, 2], risk: 0.5, writes: true },
    (context, state) => {
      const { profile, goal, unknown = [] } = context;
      const build = buildAtOther(state);
      if (profile.slotCount === 1) return 'it has one slot';
      if (!goesToStock(goal)) return 'only what goes back to stock touches the other slot';
      if (state.handset.snapshot === 'merging') return 'an update is merging over the other slot';
      if (unknown.includes('other-slot')) return 'what lies on the other slot was never read';
      if (!hasMade(state, `stock ${build}`)) return 'its stock image is not in the vault';
      const slot = otherSlot(state.handset.active);
      const flags = flagsBack(context, state, slot, build);
      if (typeof flags === 'string') return flags;
      return fromBootloader(state, [
        ...flags,
        {
          do: 'write',
          partition: onSlot(profile.rootPartition, slot),
          image: stockImage(profile.rootPartition, build),
        },
      ]);
    },
  ),
  'write-recovery': onHandset(
    { title: 'Write the recovery', minutes: [1, 2], risk: 1, writes: true },
    (context, state) => {
      if (!context.recovery) return NO_RECOVERY;
      if (blowsFuse(context)) return 'writing a recovery blows the fuse';
      const build = buildAtActive(state);
      const { active } = state.handset;
      const alone = hasOwnPartition(context.profile);
      const shut =
        noRecoveryPlace(context) ??
        needWayBack(context, state) ??
        needRebuilt(context, state, build) ??
        (alone ? null : needFlags(context, state, active, build));
      if (shut !== null) return shut;
      return fromBootloader(state, [
        ...recoveryFlagsFor(context, state, active, build),
        {
          do: 'write',
          partition: onSlot(context.profile.recoveryHome, active),
          image: customRecovery(context, build),
        },
      ]);
    },
  ),
  'write-stock-recovery': onHandset(
    { title: 'Write the stock recovery of the installed build', minutes: [1, 2], risk: 0.5, writes: true },
    (context, state) => {
      const build = buildAtActive(state);
      if (!context.recoveryHomeRead) return 'where its recovery lives was never read';
      if (!hasStockRecovery(context, state, build)) return 'its stock image is not in the vault';
      return fromBootloader(state, [
        {
          do: 'write',
          partition: onSlot(context.profile.recoveryHome, state.handset.active),
          image: stockImage(context.profile.recoveryHome, build),
        },
      ]);
    },
  ),
  'root-zip': onHandset(
    {
      title: 'Install root through the recovery',
      minutes: [1, 3],
      risk: 1,
      writes: true,
      fileTrips: 1,
      who: 'handset',
    },
    (context, state) => {
      const build = buildAtActive(state);
      const { active, images } = state.handset;
      const there = images[onSlot(context.profile.recoveryHome, active)];
      const image = withRecoveryThere(context, there, patchedImage(context, build));
      return (
        needPatched(context, state, build, there) ??
        needFlags(context, state, active, build) ?? [
          ...flagsFor(context, state, active, build),
          { do: 'install-zip', partition: context.profile.rootPartition, image },
        ]
      );
    },
  ),
  'start-once': onHandset(
    { title: 'Start the patched image once, from memory', minutes: [1, 3], risk: 0.2 },
    (context, state) => {
      const build = buildAtActive(state);
      return hasMade(state, `patched ${build}`)
        ? [{ do: 'start-once', image: patchedImage(context, build) }]
        : 'its patched image was not made';
    },
  ),
  'make-lasting': onHandset(
    { title: 'Make it lasting from inside', minutes: [1, 2], risk: 0.5, writes: true, who: 'root' },
    (context, state) => {
      const { running } = state.handset;
      if (blowsFuse(context)) return 'writing a patched image blows the fuse';
      return running
        ? [
            ...flagsFor(context, state, running.slot, running.build),
            { do: 'patch-from-inside', which: 'running slot', image: patchedImage(context, running.build) },
          ]
        : 'nothing runs';
    },
  ),
  'stock-back': onHandset(
    {
      title: 'Put the stock image back on disk, without a restart',
      minutes: [1, 2],
      risk: 0.5,
      writes: true,
      who: 'root',
    },
    (context, { handset, made: kept }) => {
      const { running } = handset;
      if (!running) return 'nothing runs';
      if (!kept.includes(`stock ${running.build}`)) return 'its stock image is not in the vault';
      return [
        {
          do: 'patch-from-inside',
          which: 'running slot',
          image: stockImage(context.profile.rootPartition, running.build),
        },
      ];
    },
  ),
  'stock-recovery-back': onHandset(
    {
      title: 'Put the stock recovery back on disk, without a restart',
      minutes: [1, 2],
      risk: 0.5,
      writes: true,
      who: 'root',
    },
    (context, state) => {
      const { running, images } = state.handset;
      if (!running) return 'nothing runs';
      const { recoveryHome: home, rootPartition } = context.profile;
      if (home === rootPartition) return 'it goes back with the stock image that carries root';
      const partition = onSlot(home, running.slot);
      if (!images[partition]?.recovery) return 'the stock recovery lies there';
      if (!hasStockRecovery(context, state, running.build)) return 'its stock image is not in the vault';
      return [{ do: 'write', partition, image: stockImage(home, running.build) }];
    },
  ),
  ...UPDATE_ACTIONS,
  'open-root': onHandset(
    { title: 'Get root in the running system', minutes: [2, 10], risk: 3, who: 'handset' },
    (_context, { handset }) => (handset.running?.rooted ? 'it is there already' : [{ do: 'open-root' }]),
  ),
  'undo-inside': onHandset(
    { title: 'Take root off from inside', minutes: [1, 4], who: 'handset' },
    (_context, { handset }) =>
      handset.insideRoot === undefined ? 'root was not let in from inside' : [{ do: 'undo-inside' }],
  ),
  ...MODULE_ACTIONS,
  ...RECOVERY_ACTIONS,
  ...BOOTLOADER_ACTIONS,
  ...PACKAGE_ACTIONS,
} as const;

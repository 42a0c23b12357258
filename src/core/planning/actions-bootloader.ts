import { onSlot } from '../handset/builds';
import {
  belowOrUnknown,
  buildAtActive,
  fromBootloader,
  needWhole,
  onComputer,
  onHandset,
  overAnUpdate,
} from './action-kit';
import type { PlanContext, PlanState } from './context';
import { BOOTLOADER_BACK, BOOTLOADER_DOWN, hasMade, RECOVERY_OPENED, runsNow, stockImage } from './context';

/*
 * Bootloaders by themselves: an older one that a known way down wants, and one that is put in for a while because
 * it takes what the installed one shuts out.
 */

export const NO_LOOSE_BUILD =
  'no older build is known whose bootloader takes images that are not the maker’s, with a level that is not below the fuse';

const bootloaderOf = (build: string) => `bootloader ${build}`;

/** Bootloader of a build, taken out of its package. */
const taken = (which: 'installed' | 'older') =>
  onComputer(
    {
      title: which === 'installed' ? 'Take out the installed bootloader' : 'Take out the older bootloader',
      minutes: [0.5, 2],
    },
    (context, state) => {
      const build = which === 'installed' ? runsNow(context) : context.looseBuild;
      if (build === undefined) return NO_LOOSE_BUILD;
      if (hasMade(state, bootloaderOf(build))) return 'it is in the vault already';
      return hasMade(state, `package ${build}`) ? { make: bootloaderOf(build) } : 'its package is not open';
    },
  );

/** Written alone, and entered: what follows is done with the one that was written. */
const written = (state: PlanState, build: string) => [
  {
    do: 'write' as const,
    partition: onSlot('bootloader', state.handset.active),
    image: stockImage('bootloader', build),
  },
  { do: 'enter-bootloader' as const },
];

export const BOOTLOADER_ACTIONS = {
  'open-older-package': onComputer(
    { title: 'Open the package of the older bootloader', minutes: [10, 60], downloads: 1 },
    ({ looseBuild }, state) => {
      if (looseBuild === undefined) return NO_LOOSE_BUILD;
      return hasMade(state, `package ${looseBuild}`)
        ? 'it is open already'
        : { make: `package ${looseBuild}` };
    },
  ),
  'take-bootloader': taken('installed'),
  'take-older-bootloader': taken('older'),
  'bootloader-down': onHandset(
    {
      title: 'Put the older bootloader in for a while',
      minutes: [2, 5],
      risk: 5,
      writes: true,
    },
    (context, state) => {
      const { looseBuild: build, profile } = context;
      if (build === undefined) return NO_LOOSE_BUILD;
      if (hasMade(state, BOOTLOADER_DOWN)) return 'it was there already';
      // the way back first: nobody is left with the older one
      for (const one of [build, runsNow(context)])
        if (!hasMade(state, bootloaderOf(one))) return 'both bootloaders have to be in the vault first';
      const there = state.handset.images[onSlot('bootloader', state.handset.active)]?.fingerprint;
      if (profile.looseBuilds.includes(there ?? runsNow(context)))
        return 'the installed one takes these images too';
      return fromBootloader(state, overAnUpdate(state) ?? written(state, build));
    },
    () => [BOOTLOADER_DOWN],
  ),
  'bootloader-back': onHandset(
    { title: 'Put the installed bootloader back', minutes: [2, 5], risk: 3, writes: true },
    (context, state) => {
      if (!hasMade(state, BOOTLOADER_DOWN) || hasMade(state, BOOTLOADER_BACK)) return 'it is there';
      // a start in between could put the maker's recovery back
      if (!hasMade(state, RECOVERY_OPENED)) return 'the recovery that was written is gone into first';
      return fromBootloader(state, written(state, runsNow(context)));
    },
    () => [BOOTLOADER_BACK],
  ),
  'older-bootloader': onHandset(
    { title: 'Write the older bootloader', minutes: [2, 5], risk: 5, writes: true },
    (context: PlanContext, state: PlanState) => {
      const { profile, target } = context;
      const edge = profile.sideloadsDown.find(
        ({ from, to }) => from === buildAtActive(state) && to === target,
      );
      if (edge?.bootloader === undefined) return 'no way down is known that wants an older bootloader';
      if (state.handset.floors.bootloader <= edge.bootloader) return 'its bootloader is old enough';
      const missing = overAnUpdate(state) ?? needWhole(state, target) ?? belowOrUnknown(context, state);
      const slot = state.handset.active;
      return fromBootloader(
        state,
        missing ?? [
          { do: 'write', partition: onSlot('bootloader', slot), image: stockImage('bootloader', target) },
        ],
      );
    },
  ),
} as const;

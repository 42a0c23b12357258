import { onSlot } from '../handset/builds';
import type { HandsetState, Running } from '../handset/state';
import { blowsFuse, onHandset, overAnUpdate } from './action-kit';
import type { PlanContext } from './context';
import { hasMade } from './context';

/* A package that root installs from the running system: what lies there first, then it, then another look. */

export const NO_PACKAGE = 'no install package is kept';
/** Made by reading out what it overwrites, by installing it, and by seeing it there after a start. */
export const READ_OUT = 'read out what it overwrites';
export const PACKAGE_IN = 'package installed';
export const PACKAGE_SEEN = 'package seen after a start';

/** What runs, where it runs with root and somebody allowed that; else null. */
const rooted = ({ running, rootRequest }: HandsetState): Running | null =>
  running?.rooted === true && rootRequest === 'granted' ? running : null;

const NO_ROOT = 'root was not asked for';

/** What it writes, on the slot that runs. */
const writesOf = ({ install }: PlanContext, slot: string) =>
  (install?.writes ?? []).map(({ partition, image }) => ({ partition: onSlot(partition, slot), image }));

export const PACKAGE_ACTIONS = {
  'read-out': onHandset(
    { title: 'Read out what the package overwrites', minutes: [1, 3], who: 'root' },
    ({ install }, state) => {
      if (!install) return NO_PACKAGE;
      if (hasMade(state, READ_OUT)) return 'it is read out already';
      return rooted(state.handset) ? [] : NO_ROOT;
    },
    () => [READ_OUT],
  ),
  'package-inside': onHandset(
    {
      title: 'Install the package from the running system',
      minutes: [2, 5],
      risk: 2,
      writes: true,
      fileTrips: 1,
      who: 'root',
    },
    (context, state) => {
      const { handset } = state;
      if (!context.install) return NO_PACKAGE;
      if (!hasMade(state, READ_OUT)) return 'what it overwrites was not read out';
      if (hasMade(state, PACKAGE_IN)) return 'it is installed already';
      const running = rooted(handset);
      if (running === null) return NO_ROOT;
      const writes = writesOf(context, running.slot);
      if (
        writes.some(({ image }) => image.patchedBy !== null || image.digestValid !== true || image.recovery)
      )
        if (blowsFuse(context)) return 'what it writes blows the fuse';
      return (
        overAnUpdate(state) ??
        writes.map(({ partition, image }) => ({ do: 'write' as const, partition, image }))
      );
    },
    () => [PACKAGE_IN],
  ),
  'see-again': onHandset(
    { title: 'See that it is still there', minutes: [1, 2], who: 'root' },
    (context, state) => {
      const { handset } = state;
      if (!hasMade(state, PACKAGE_IN)) return 'nothing was installed';
      if (hasMade(state, PACKAGE_SEEN)) return 'it was seen';
      const running = rooted(handset);
      if (running === null) return NO_ROOT;
      if (handset.writtenSinceStart) return 'it is looked at after a start';
      const gone = writesOf(context, running.slot).find(
        ({ partition, image }) => handset.images[partition]?.sha256 !== image.sha256,
      );
      return gone ? `the start has put another ${gone.partition} there` : [];
    },
    () => [PACKAGE_SEEN],
  ),
} as const;

import { onSlot } from './builds';
import type { Operated } from './operated';
import { done, refused } from './operated';
import type { HandsetProfile, HandsetState } from './state';

/* The root app on the handset: what its first start makes of it, and what its own menu does. */

export type RootAppChange = 'show' | 'hide' | 'pin' | 'update' | 'ask';

/** How much newer the version is that a root app offers of itself. */
const NEXT = 10;

/** Code of a kit by its name and version, as invented kits count: 7.3 is 703. */
function codeOf(kit: string): number {
  const [, major = '0', minor = '0'] = /(\d+)(?:\.(\d+))?/.exec(kit) ?? [];
  return Number(major) * 100 + Number(minor);
}

/** The app that comes with the kit in the image that runs; one that is there already stays as it is. */
export function finishedRootApp(profile: HandsetProfile, state: HandsetState): HandsetState {
  const image = state.images[onSlot(profile.rootPartition, state.active)];
  const kit = image?.patchedBy?.kit;
  return {
    ...state,
    rootApp: 'ready',
    ...(state.rootAppIs === undefined && kit !== undefined
      ? { rootAppIs: { versionCode: codeOf(kit), channel: 'stable', hidden: false, pinned: false } }
      : {}),
  };
}

export function changeRootApp(state: HandsetState, change: RootAppChange): Operated {
  const { rootAppIs, appDenies, ...rest } = state;
  if (change === 'ask')
    return appDenies ? done({ ...rest, ...(rootAppIs ? { rootAppIs } : {}) }) : refused('it asks already');
  if (rootAppIs === undefined) return refused('there is no root app');
  switch (change) {
    case 'show':
    case 'hide':
      return done({ ...state, rootAppIs: { ...rootAppIs, hidden: change === 'hide' } });
    case 'pin':
      return done({ ...state, rootAppIs: { ...rootAppIs, pinned: true } });
    case 'update':
      return rootAppIs.pinned
        ? refused('it takes no update of itself')
        : done({
            ...state,
            rootAppIs: { ...rootAppIs, versionCode: rootAppIs.versionCode + NEXT, channel: 'preview' },
          });
  }
}

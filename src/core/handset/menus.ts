import { recoveryImage } from './operate-modes';
import type { HandsetOperation } from './operate';
import { ownWay } from './own-ways';
import type { HandsetProfile, HandsetState } from './state';

/*
 * What can be chosen on the handset itself: its menus by keys, and what its running system lets a finger do.
 */

/** A menu waits for its last word before it erases something. */
export type Asked = 'unlock' | 'lock' | 'erase' | 'keep storage' | 'format' | RecoveryAsks;
/** What a recovery of one's own asks by itself. */
export type RecoveryAsks = 'changes' | 'keep mine';

export type Choice =
  | {
      readonly do:
        | 'restart'
        | 'enter-bootloader'
        | 'enter-recovery'
        | 'enter-userspace'
        | 'enter-sideload'
        | 'power-off';
    }
  /** Asks once more before it is done. */
  | { readonly do: 'ask'; readonly what: Asked }
  | { readonly do: 'leave' }
  | { readonly do: 'agree'; readonly what: Asked }
  | { readonly do: 'erase-cache' }
  | { readonly do: 'install'; readonly path: string };

export interface MenuItem {
  readonly label: string;
  readonly choice: Choice;
}

const item = (label: string, choice: Choice): MenuItem => ({ label, choice });
const BOOTLOADER = item('Bootloader', { do: 'enter-bootloader' });
const OFF = item('Power off', { do: 'power-off' });

type Words = Pick<HandsetProfile, 'ownWays'>;
const start = (words: Words) => item(ownWay(words, 'line-start'), { do: 'restart' });
const cache = (words: Words) => item(ownWay(words, 'line-cache'), { do: 'erase-cache' });
const eraseAll = (words: Words) => item(ownWay(words, 'line-erase'), { do: 'ask', what: 'erase' });

/** The harmless line and the other one. */
function lastWord(words: Words, what: Asked): readonly [string, string] {
  switch (what) {
    case 'unlock':
      return ['Leave it locked', ownWay(words, 'line-unlock')];
    case 'lock':
      return ['Leave it unlocked', ownWay(words, 'line-lock')];
    case 'erase':
      return ['Erase nothing', 'Erase everything'];
    case 'keep storage':
      return ['Erase nothing', 'Erase, keep the storage'];
    case 'format':
      return ['Erase nothing', 'Format data, drop encryption'];
    case 'changes':
      return ['Only read', 'Let it change the system'];
    case 'keep mine':
      return ['The maker’s may come back', 'Keep this recovery'];
  }
}

/**
 * The menu of a mode in order; empty where the mode has none. The first one of a question is always the
 * harmless one.
 */
export function menuOf(
  profile: HandsetProfile,
  state: HandsetState,
  asked: Asked | null,
  zips: readonly string[],
): readonly MenuItem[] {
  if (asked !== null) {
    const [no, yes] = lastWord(profile, asked);
    return [item(no, { do: 'leave' }), item(yes, { do: 'agree', what: asked })];
  }
  const userspace = profile.hasUserspace
    ? [item(ownWay(profile, 'line-userspace'), { do: 'enter-userspace' })]
    : [];
  switch (state.mode) {
    case 'bootloader':
      return [
        start(profile),
        item('Bootloader again', { do: 'enter-bootloader' }),
        item(ownWay(profile, 'line-recovery'), { do: 'enter-recovery' }),
        ...userspace,
        OFF,
      ];
    case 'recovery': {
      const own = recoveryImage(profile, state)?.recovery ?? null;
      return own
        ? [
            start(profile),
            BOOTLOADER,
            ...zips.map((path) => item(`Install ${path.split('/').at(-1)}`, { do: 'install', path })),
            cache(profile),
            item(ownWay(profile, 'line-keep-storage'), { do: 'ask', what: 'keep storage' }),
            eraseAll(profile),
            item(ownWay(profile, 'line-format'), { do: 'ask', what: 'format' }),
            OFF,
          ]
        : [
            start(profile),
            BOOTLOADER,
            item(ownWay(profile, 'line-sideload'), { do: 'enter-sideload' }),
            ...userspace,
            cache(profile),
            eraseAll(profile),
            OFF,
          ];
    }
    case 'sideload':
      return [item('Call it off', { do: 'enter-recovery' })];
    case 'userspace':
      return [start(profile), BOOTLOADER];
    default:
      return [];
  }
}

/** An update that the system offers. */
export interface UpdateOffer {
  readonly build: string;
  /** The same build as a whole package is at hand too. */
  readonly whole: boolean;
}

export type TouchId =
  | 'restart now'
  | 'later'
  | 'unlock switch'
  | 'debugging'
  | 'auto-update'
  | 'take update'
  | 'take whole update'
  | 'call off update'
  | 'finish root app'
  | 'show root app'
  | 'let root app ask'
  | 'pin root app'
  | 'update root app'
  | 'open root'
  | 'undo open root'
  | 'patch file';

export interface Touch {
  readonly id: TouchId;
  readonly label: string;
}

export interface TouchPanel {
  readonly offer: UpdateOffer | null;
  /** The system's own wish to restart. */
  readonly restartOffered: boolean;
  readonly canPatch: boolean;
}

/** What a finger can do on the running system. */
export function touchesOf(
  profile: HandsetProfile,
  state: HandsetState,
  { offer, restartOffered, canPatch }: TouchPanel,
): readonly Touch[] {
  if (state.mode !== 'system' || !state.running) return [];
  if (restartOffered)
    return [
      { id: 'restart now', label: 'Restart now' },
      { id: 'later', label: 'Later' },
    ];
  const { settings, unlockSwitch, rootApp, running, update } = state;
  const out: Touch[] = [];
  const add = (id: TouchId, label: string, when: boolean) => {
    if (when) out.push({ id, label });
  };
  const newer = offer !== null && update === null && state.snapshot === 'none';
  add('take update', 'Take the update', newer);
  add('take whole update', 'Take the whole package', newer && offer.whole);
  add('call off update', 'Call the update off', update !== null);
  add('finish root app', 'Let the root app finish', rootApp === 'unfinished' && running.rooted);
  add('patch file', 'Patch a file', canPatch);
  add('open root', 'Root in this system', profile.openBuilds.includes(running.build) && !running.rooted);
  add('undo open root', 'Take root off again', state.insideRoot !== undefined);
  add('unlock switch', ownWay(profile, 'setting-unlock'), state.locked && unlockSwitch === 'off');
  add('debugging', settings.debugging ? 'Turn debugging off' : 'Turn debugging on', true);
  addOfRootApp(state, add);
  add('auto-update', settings.autoUpdate ? 'Turn automatic updates off' : 'Turn automatic updates on', true);
  return out;
}

/** What the root app's own menu has; what is hidden shows nothing but its way back. */
function addOfRootApp(
  { rootApp, rootAppIs: app, appDenies }: HandsetState,
  add: (id: TouchId, label: string, when: boolean) => void,
): void {
  add(
    'let root app ask',
    'Root app: ask me again',
    rootApp === 'ready' && appDenies === true && app?.hidden !== true,
  );
  if (rootApp !== 'ready' || app === undefined) return;
  add('show root app', 'Show the root app', app.hidden);
  add('pin root app', 'Root app: offer no more updates', !app.hidden && !app.pinned);
  add('update root app', 'Root app: take its update', !app.hidden && !app.pinned);
}

type PlainTouch = Exclude<
  TouchId,
  'restart now' | 'later' | 'take update' | 'take whole update' | 'patch file'
>;

/** What a touch does that needs nothing but the handset itself. */
export function touched(id: PlainTouch, settings: HandsetState['settings']): HandsetOperation {
  switch (id) {
    case 'unlock switch':
      return { do: 'unlock-switch' };
    case 'debugging':
      return { do: 'set', settings: { debugging: !settings.debugging } };
    case 'auto-update':
      return { do: 'set', settings: { autoUpdate: !settings.autoUpdate } };
    case 'call off update':
      return { do: 'cancel-update' };
    case 'finish root app':
      return { do: 'finish-root-app' };
    case 'show root app':
      return { do: 'root-app', change: 'show' };
    case 'let root app ask':
      return { do: 'root-app', change: 'ask' };
    case 'pin root app':
      return { do: 'root-app', change: 'pin' };
    case 'update root app':
      return { do: 'root-app', change: 'update' };
    case 'open root':
      return { do: 'open-root' };
    case 'undo open root':
      return { do: 'undo-inside' };
  }
}

import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Asked, Touch, UpdateOffer } from './menus';
import { menuOf, touchesOf } from './menus';
import { recoveryImage } from './operate-modes';
import { fuseCause } from './tamper-record';
import type { HandsetProfile, HandsetState } from './state';

/** What the simulated handset's screen shows: plain data, drawn by whoever shows it. */
export type ScreenModel =
  | { readonly kind: 'dark' }
  | {
      /** A mode with a few facts and a menu by keys. */
      readonly kind: 'menu';
      readonly title: string;
      readonly facts: readonly (readonly [string, string])[];
      readonly menu: readonly string[];
      readonly chosen: number;
      readonly busy: string | null;
      /** What it said last, such as why it refused. */
      readonly said: string | null;
    }
  | { readonly kind: 'starting'; readonly warning: string | null; readonly loops: number }
  | {
      readonly kind: 'system';
      readonly build: string;
      /** Empty on a handset with one slot. */
      readonly slot: string;
      readonly rooted: boolean;
      readonly asksForRoot: boolean;
      readonly touches: readonly Touch[];
      readonly busy: string | null;
      readonly said: string | null;
    };

/** What of a screen is not in the handset's state. */
export interface Panel {
  readonly chosen: number;
  readonly busy: string | null;
  readonly said: string | null;
  readonly asked: Asked | null;
  readonly zips: readonly string[];
  readonly offer: UpdateOffer | null;
  readonly restartOffered: boolean;
  /** An image and a kit lie on its storage. */
  readonly canPatch: boolean;
}

export const PLAIN_PANEL: Panel = {
  chosen: 0,
  busy: null,
  said: null,
  asked: null,
  zips: [],
  offer: null,
  restartOffered: false,
  canPatch: false,
};

const TITLES = {
  bootloader: 'Bootloader',
  recovery: 'Recovery',
  sideload: 'Waiting for a package',
  userspace: 'User-space flashing',
  download: 'Download',
} as const;

function factsOf(profile: HandsetProfile, state: HandsetState): (readonly [string, string])[] {
  const recovery = recoveryImage(profile, state)?.recovery;
  return [
    ['product', profile.product],
    ['serial', profile.serial],
    ...(profile.slotCount === 2 ? [['slot', state.active] as const] : []),
    ['lock', state.locked ? 'locked' : 'unlocked'],
    ...(state.mode === 'download'
      ? [
          ['writes', String(state.record.writes)] as const,
          ...(fuseCause(profile) === 'nothing'
            ? []
            : [['fuse', state.record.fuseBlown ? 'blown' : 'whole'] as const]),
        ]
      : []),
    ...(state.mode === 'recovery'
      ? [['recovery', recovery?.name ?? 'the maker’s'] as const]
      : [['bootloader', profile.bootloader] as const]),
  ];
}

export function screenOf(profile: HandsetProfile, state: HandsetState, panel: Panel): ScreenModel {
  const { chosen, busy, said, asked, zips } = panel;
  switch (state.mode) {
    case 'off':
    case 'dead':
      return { kind: 'dark' };
    case 'bootloader':
    case 'recovery':
    case 'sideload':
    case 'userspace':
    case 'download':
      return {
        kind: 'menu',
        title: TITLES[state.mode],
        facts: factsOf(profile, state),
        menu: menuOf(profile, state, asked, zips).map(({ label }) => label),
        chosen,
        busy,
        said,
      };
    case 'starting':
    case 'looping':
      return {
        kind: 'starting',
        warning: state.locked ? null : 'The bootloader is unlocked.',
        loops: state.loops,
      };
    case 'system':
      return {
        kind: 'system',
        build: splitFingerprint(state.running?.build ?? '')?.id ?? '',
        slot: profile.slotCount === 2 ? (state.running?.slot ?? '') : '',
        rooted: state.running?.rooted ?? false,
        asksForRoot: state.rootRequest === 'asked',
        touches: touchesOf(profile, state, panel),
        busy,
        said,
      };
  }
}

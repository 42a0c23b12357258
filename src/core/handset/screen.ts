import { splitFingerprint } from '../formats/facts/parse-facts';
import { BOOTLOADER_MENU } from './keys';
import { recoveryImage } from './operate-modes';
import type { HandsetProfile, HandsetState } from './state';

/** What the simulated handset's screen shows: plain data, drawn by whoever shows it. */
export type ScreenModel =
  | { readonly kind: 'dark' }
  /** A mode with a word and a few facts. */
  | { readonly kind: 'plain'; readonly title: string; readonly lines: readonly string[] }
  | {
      readonly kind: 'bootloader';
      readonly facts: readonly (readonly [string, string])[];
      readonly menu: readonly string[];
      readonly chosen: number;
      readonly busy: string | null;
    }
  | { readonly kind: 'starting'; readonly warning: string | null; readonly loops: number }
  | { readonly kind: 'system'; readonly build: string; readonly slot: string; readonly rooted: boolean; readonly asksForRoot: boolean };

const PLAIN_TITLES = { recovery: 'Recovery', sideload: 'Waiting for a package', userspace: 'User-space flashing', download: 'Download' } as const;

function plainLines(profile: HandsetProfile, state: HandsetState): string[] {
  const recovery = recoveryImage(profile, state)?.recovery;
  return [
    `${profile.product}, serial ${profile.serial}`,
    `slot ${state.active}`,
    state.mode === 'recovery' ? (recovery ? recovery.name : 'the maker’s own') : state.locked ? 'locked' : 'unlocked',
  ];
}

export function screenOf(profile: HandsetProfile, state: HandsetState, chosen: number, busy: string | null): ScreenModel {
  switch (state.mode) {
    case 'off':
      return { kind: 'dark' };
    case 'dead':
      return { kind: 'dark' };
    case 'recovery':
    case 'sideload':
    case 'userspace':
    case 'download':
      return { kind: 'plain', title: PLAIN_TITLES[state.mode], lines: plainLines(profile, state) };
    case 'bootloader':
      return {
        kind: 'bootloader',
        facts: [
          ['product', profile.product],
          ['serial', profile.serial],
          ['slot', state.active],
          ['lock', state.locked ? 'locked' : 'unlocked'],
          ['bootloader', profile.bootloader],
        ],
        menu: BOOTLOADER_MENU,
        chosen,
        busy,
      };
    case 'starting':
    case 'looping':
      return { kind: 'starting', warning: state.locked ? null : 'The bootloader is unlocked.', loops: state.loops };
    case 'system':
      return {
        kind: 'system',
        build: splitFingerprint(state.running?.build ?? '')?.id ?? '',
        slot: state.running?.slot ?? '',
        rooted: state.running?.rooted ?? false,
        asksForRoot: state.rootRequest === 'asked',
      };
  }
}

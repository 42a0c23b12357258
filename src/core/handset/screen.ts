import { splitFingerprint } from '../formats/facts/parse-facts';
import { BOOTLOADER_MENU } from './keys';
import type { HandsetProfile, HandsetState } from './state';

/** What the simulated handset's screen shows: plain data, drawn by whoever shows it. */
export type ScreenModel =
  | { readonly kind: 'dark' }
  | {
      readonly kind: 'bootloader';
      readonly facts: readonly (readonly [string, string])[];
      readonly menu: readonly string[];
      readonly chosen: number;
      readonly busy: string | null;
    }
  | { readonly kind: 'starting'; readonly warning: string | null; readonly loops: number }
  | { readonly kind: 'system'; readonly build: string; readonly slot: string; readonly rooted: boolean; readonly asksForRoot: boolean };

export function screenOf(profile: HandsetProfile, state: HandsetState, chosen: number, busy: string | null): ScreenModel {
  switch (state.mode) {
    case 'off':
      return { kind: 'dark' };
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

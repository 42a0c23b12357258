/* What comes over a simulated handset in the middle of its work, as it does over real ones. */

export const SURPRISE_WORDS = {
  'cable-out': 'The cable comes loose in the middle of a write',
  'low-battery': 'The battery is nearly empty once the update is taken',
  'bad-module': 'A module does not start with the new build',
  'debugging-off': 'The new build comes up with debugging off',
  'stuck-merge': 'The update merges and does not end',
  'denying-app': 'The root app denies without asking on the new build',
  'restarts-itself': 'It restarts by itself while an update waits',
  'slot-changed': 'Its other slot is selected once its bootloader opens',
  'own-update': 'It takes its update by itself',
  'prompt-gone': 'The root prompt goes away before anybody answers it',
} as const;
export type SurpriseId = keyof typeof SURPRISE_WORDS;
export const SURPRISE_IDS = Object.keys(SURPRISE_WORDS) as readonly SurpriseId[];
export const isSurprise = (text: unknown): text is SurpriseId =>
  typeof text === 'string' && Object.hasOwn(SURPRISE_WORDS, text);

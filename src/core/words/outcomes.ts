/* What a person saw where a step did not go as described, told as it looks on a handset. */

export const OUTCOME_WORDS = {
  loops: 'It starts over and over.',
  'stays-at-logo': 'It stays at its first picture.',
  'comes-up-in-bootloader': 'It came up in its bootloader, not in its system.',
  'comes-up-in-recovery': 'It came up in its recovery, not in its system.',
  'asks-for-wipe': 'It says that its data is damaged, and asks to erase it.',
  'another-build': 'It runs, but not the build that was expected.',
  'starts-anyway': 'Its system started instead.',
  'another-screen': 'Its screen shows something else.',
  'not-listed': 'The computer does not see it.',
  refused: 'It said no, and nothing was written.',
  'cut-short': 'The cable, the power or the program ended before it was done.',
  'nothing-happened': 'Nothing happened.',
  dark: 'Its screen stays dark, and nothing answers.',
  'no-root': 'Nothing answers for root.',
  'root-denied': 'Root answered, and said no.',
  'own-words': 'Something else, in my own words.',
} as const;
export type OutcomeId = keyof typeof OUTCOME_WORDS;

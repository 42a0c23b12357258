/* What a round is signed off by, in the order in which it is read. */

export const CLAIM_WORDS = {
  'build-known': 'The build that runs is known',
  'goal-build': 'The build that runs is the one of this round',
  'image-proved': 'The image belongs to its build and is proved',
  written: 'What was to be written is on the handset',
  starts: 'The handset starts',
  'package-there': 'What the package wrote is still there after a start',
  'root-works': 'Root works',
  'root-lasts': 'Root is there after a restart',
  'no-root': 'The handset has no root any more',
  'recovery-opens': 'The recovery opens',
  'data-imaged': 'An image of its data is kept off the handset',
  merged: 'The update has merged',
  'modules-back': 'The modules are back',
  locked: 'It is locked',
  'data-there': 'Data is there',
  calls: 'Calls and mobile data',
  payments: 'Payments and work apps',
} as const;
export type ClaimId = keyof typeof CLAIM_WORDS;

export const PUT_BACK_CLAIM = 'Every temporary change is undone';
export const NOTHING_OPEN = 'nothing is open';
export const NO_EVIDENCE = 'not seen';
export const SAYS_NO = 'what was seen says no';
export const TWO_KINDS = 'two kinds of evidence, one of them not from the root app, would prove it';
export const ASK_FOR_ROOT = 'nobody asked for root yet: ask for it, and allow it on the handset';
export const AFTER_A_START = 'root was asked for after a start from what is on disk';
export const afterAnother = (what: string) => `after one more restart: ${what}`;
export const START_ONCE_MORE = 'restart once more, and ask for root again';

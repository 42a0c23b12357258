/* Faults that are put into a stand-in, to see what becomes of them. */

export const HIDDEN_FAULT_WORDS = {
  'bad-module': 'A module that this build does not start with',
  'rotted-image': 'The image that carries root is rotted',
  'wrong-slot': 'A slot is selected that holds no system',
  'foreign-vendor-boot': 'vendor_boot of another build',
  'no-tries': 'Its slot has no tries left',
  'unopened-data': 'The data was opened by a newer build',
  'cut-write': 'A write that was cut in the middle',
  'stuck-update': 'An update that merges and does not end',
  'dead-cable': 'A cable that carries no data any more',
  'debugging-off': 'Its debugging went off',
  'denying-app': 'The root app denies without asking',
  'stock-on-disk': 'What lies on disk carries no root any more',
} as const;
export type HiddenFaultId = keyof typeof HIDDEN_FAULT_WORDS;
export const HIDDEN_FAULT_IDS = Object.keys(HIDDEN_FAULT_WORDS) as readonly HiddenFaultId[];
export const isHiddenFault = (text: string): text is HiddenFaultId => Object.hasOwn(HIDDEN_FAULT_WORDS, text);

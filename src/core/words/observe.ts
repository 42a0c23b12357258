/* What to do after what was observed at a step. */

const AGAIN = 'Replug it, try another cable or port, then do the same step again.';

/** Every fault that a line can say, and what to do about it. */
export const FAULT_NEXT = {
  'not-listed': `The handset is not listed. ${AGAIN} See whether it is in the mode of this step.`,
  'no-permission':
    'This computer may not use the handset yet: allow it on the handset’s screen, or give your account the right to use its port.',
  'refused-locked':
    'The bootloader is locked, and nothing was written. See what unlocking needs, and that it erases.',
  'switch-off': 'Turn the unlock switch on in the developer options, then try again.',
  'refused-older': 'It refuses an older build. Do not force it: look at the floors under “Before a wipe”.',
  'refused-partition':
    'It knows no partition of that name in this mode. Check the slot in the name, and whether user-space flashing is the right mode.',
  'refused-signature':
    'It does not accept who signed this. Compare the package’s hash with the one its maker publishes.',
  'too-large': 'It is too large for where it goes. Check that it is the right image for the right partition.',
  'no-space': 'There is not enough room. Free some, then do the step again.',
  'link-lost': `The link was lost. What was being written is unknown until it is written again. ${AGAIN}`,
  'cut-short': `It ended before everything was sent. ${AGAIN}`,
  already: 'It says that this is done already. Read the handset’s state before you go on.',
  'no-file': 'Your tool does not find the file. Run the command in the folder that holds it.',
  'push-failed':
    'The file did not reach the handset. Choose a folder that can be written, then copy it again.',
  'root-denied': 'Root answered and said no. Ask again, and allow it on the handset.',
  'no-root': 'Nothing answers for root: the image that runs is not the patched one.',
  'wrong-code': 'The code was not accepted. Check it character by character.',
  'needs-wipe':
    'It asks to be erased. Say no for now: the build that last opened its data can still read it.',
  busy: 'It is busy. Wait a minute, then do the same step again.',
  refused: 'It refused. Keep its words, and plan anew from what is known.',
} as const;
export type FaultId = keyof typeof FAULT_NEXT;

/** How something that was not seen yet is seen. */
export const MISSING_NEXT = {
  mode: 'See in which mode the handset is listed, or paste its bootloader variables.',
  serial: 'Paste the list that shows its serial.',
  product: 'Paste what shows its code name.',
  slot: 'Paste what names the slot: the property dump, or the bootloader variables.',
  partition: 'Paste the line that names the partition.',
  lock: 'Read the lock state in the bootloader: paste its variables.',
  hash: 'Read the partition back and paste its SHA-256.',
  size: 'Paste the line that says how many bytes went.',
  file: 'Paste the line that names the file.',
  build: 'Paste the property dump of the running system.',
  root: 'Ask for root in a shell on the handset, and paste what it answers.',
  transfer: 'Paste what your tool printed to its end.',
} as const;
/** What can be met or differ. */
export type What = keyof typeof MISSING_NEXT;

/** What a person calls it. */
export const WHAT_WORDS: Readonly<Record<What, string>> = {
  mode: 'mode',
  serial: 'serial',
  product: 'code name',
  slot: 'slot',
  partition: 'partition',
  lock: 'lock state',
  hash: 'hash',
  size: 'size',
  file: 'file',
  build: 'build',
  root: 'root',
  transfer: 'transfer',
};

/** What to do where something was seen that is not what was expected. */
export const DIFFERS_NEXT: Readonly<Record<What, string>> = {
  mode: 'The handset is in another mode than this step needs. Bring it there, then look again.',
  serial: 'This is another handset. Unplug it, and connect the one that this round is about.',
  product: 'This is another model. Nothing of this round may be written to it.',
  slot: 'It is about another slot. Find out what lies on both before you go on.',
  partition: 'It is about another partition. Find out what lies there before you go on.',
  lock: 'The lock state is not what this step should leave. Do the step again, then read it again.',
  hash: 'The bytes are not those of the image. Read them again, or write the image again.',
  size: 'Another number of bytes went. Check that it was the right file, then do it again.',
  file: 'It was another file. Do it again with the right one.',
  build: 'It runs another build than expected. Plan anew from what runs.',
  root: 'Root is not as this step should leave it. Find out which image runs.',
  transfer: 'The transfer is not done. Do it again.',
};

/** What to do after a fault, or after something that differs. */
export const otherwiseNext = (fault: FaultId | null, differs: readonly What[]): string =>
  fault !== null ? FAULT_NEXT[fault] : differs[0] ? DIFFERS_NEXT[differs[0]] : '';

/** What a line says that tells of a fault. */
export const FAULT_WORDS: Readonly<Record<FaultId, string>> = {
  'not-listed': 'No handset was found.',
  'no-permission': 'The computer may not use the handset.',
  'refused-locked': 'The bootloader is locked.',
  'switch-off': 'The unlock switch is off.',
  'refused-older': 'It refuses an older build.',
  'refused-partition': 'It knows no such partition.',
  'refused-signature': 'It does not accept the signature.',
  'too-large': 'The image is too large.',
  'no-space': 'There is not enough room.',
  'link-lost': 'The link was lost.',
  'cut-short': 'It ended before everything was sent.',
  already: 'It is done already.',
  'no-file': 'The file was not found.',
  'push-failed': 'The copy failed.',
  'root-denied': 'Root said no.',
  'no-root': 'Nothing answers for root.',
  'wrong-code': 'The code was not accepted.',
  'needs-wipe': 'It asks to be erased.',
  busy: 'It is busy.',
  refused: 'It refused.',
};

import type { ErrorCode } from '@/core/errors';

/** What an error means to a person: what happened, what is safe, what to do next. */
export interface ErrorWords {
  readonly what: string;
  readonly safe: string;
  readonly next: string;
}

/** A code alone never says what became of a handset: its round does. */
const FILE_SAFE = 'Nothing was kept. What was done to a handset before, if anything, stands in its round.';
const again = 'Fetch the file again from where it came, and compare its size.';

export const ERROR_WORDS: Readonly<Record<ErrorCode, ErrorWords>> = {
  truncated: { what: 'The file ends too early.', safe: FILE_SAFE, next: again },
  'bad-magic': {
    what: 'Eterno recognises nothing in this file.',
    safe: FILE_SAFE,
    next: 'Check that it is the package or image you meant.',
  },
  'bad-field': {
    what: 'Something in it makes no sense.',
    safe: FILE_SAFE,
    next: 'Read the message here; if it is a file, fetch it again.',
  },
  corrupt: { what: 'A compressed part is damaged.', safe: FILE_SAFE, next: again },
  'bad-hash': { what: 'The bytes do not match their hash.', safe: FILE_SAFE, next: again },
  'too-large': {
    what: 'It claims more than is allowed.',
    safe: FILE_SAFE,
    next: 'Check that it is the file you meant.',
  },
  duplicate: {
    what: 'It names the same thing twice.',
    safe: FILE_SAFE,
    next: 'Read which two below. Take away the one that does not belong, or fetch the file again.',
  },
  overlap: {
    what: 'It writes the same place twice.',
    safe: FILE_SAFE,
    next: 'Do not trust this file; fetch it from its maker.',
  },
  'too-deep': {
    what: 'Too many archives are packed inside each other.',
    safe: FILE_SAFE,
    next: 'Check that it is the file you meant.',
  },
  'unsafe-path': {
    what: 'A name in it points outside its folder.',
    safe: FILE_SAFE,
    next: 'Do not trust this file.',
  },
  unsupported: {
    what: 'Eterno can’t do this yet.',
    safe: FILE_SAFE,
    next: 'Read the message below for what is missing.',
  },
  'not-found': {
    what: 'It is not there.',
    safe: 'Nothing was changed.',
    next: 'Check the name, or go back one step.',
  },
  'wrong-source': {
    what: 'The old image is not the one it starts from.',
    safe: FILE_SAFE,
    next: 'Use the stock image of the exact source build.',
  },
  'already-patched': {
    what: 'This image is patched already.',
    safe: 'It was left as it is: a patched image is never patched again.',
    next: 'Use the stock image it was made from.',
  },
  'does-not-fit': {
    what: 'The result would be too long for its partition.',
    safe: 'The stock image stays; nothing was kept.',
    next: 'Use a smaller kit.',
  },
  'kit-invalid': {
    what: 'This kit can’t be used.',
    safe: 'It was not kept.',
    next: 'Tell its provider what the message says.',
  },
  'kit-step-failed': {
    what: 'A step of the kit does not fit this image.',
    safe: 'The stock image stays; nothing was kept.',
    next: 'Use a kit made for this release.',
  },
  'key-invalid': {
    what: 'This key can’t be used.',
    safe: 'Nothing was signed.',
    next: 'Choose another key file.',
  },
  refused: {
    what: 'Not allowed, for the reason below.',
    safe: 'It was not done.',
    next: 'Settle the reason first.',
  },
  cancelled: {
    what: 'Stopped, as you asked.',
    safe: 'Nothing half done was left.',
    next: 'Start it again when you like.',
  },
  'link-lost': {
    what: 'The link to the handset was lost.',
    safe: 'If a write was under way, its partition is unknown until it is written again.',
    next: 'Check cable and mode, then do the step again.',
  },
  'handset-refused': {
    what: 'The handset refused.',
    safe: 'It said why, below.',
    next: 'Follow its reason, then do the step again.',
  },
  io: {
    what: 'This computer could not read or write a file.',
    safe: 'Nothing half written was left in place.',
    next: 'Check free space and that the file is still there.',
  },
  'server-gone': {
    what: 'Eterno’s server does not answer.',
    safe: 'Nothing was done that you have not seen, and nothing you typed is lost.',
    next: 'Start it again: this page goes on by itself. Then do this once more.',
  },
  conflict: {
    what: 'This changed somewhere else meanwhile.',
    safe: 'Nothing was done twice.',
    next: 'The page shows the newest state now; look and go on.',
  },
  internal: {
    what: 'Eterno made a mistake.',
    safe: 'What was done before it stands in the round and in the log.',
    next: 'Try again; if it comes back, keep the message.',
  },
  usage: {
    what: 'Something is missing in the request.',
    safe: 'Nothing was changed.',
    next: 'Fill in what the message names.',
  },
};

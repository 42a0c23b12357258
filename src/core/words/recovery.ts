import { wordsBy } from './words-by';

/* What is known of an image as a recovery for one handset: the code of it, and how a person reads it. */

export type RecoverySays =
  | { readonly code: 'image-of'; readonly partition: string }
  | { readonly code: 'nothing-inside' }
  | { readonly code: 'program'; readonly path: string; readonly saysRecovery: boolean }
  | { readonly code: 'handset-unread' }
  | {
      readonly code: 'made-for';
      readonly what: 'device' | 'variant';
      readonly made: string;
      readonly handset: string;
    }
  | { readonly code: 'made-for-it'; readonly product: string; readonly device: string }
  | { readonly code: 'names-nobody' }
  | {
      readonly code: 'your-word';
      readonly devices: readonly string[];
      readonly device: string;
      readonly reason: string;
      readonly fits: boolean;
    }
  | { readonly code: 'unreadable'; readonly error: string };

export const recoveryWords = wordsBy<RecoverySays>({
  'image-of': ({ partition }) => `Its own data says that it is an image of ${partition}.`,
  'nothing-inside': () => 'There is no recovery program in its ramdisk.',
  program: ({ path, saysRecovery }) =>
    `Its ramdisk holds the recovery program ${path}${saysRecovery ? ', and its own data says recovery' : ''}.`,
  'handset-unread': () => 'The code name of the handset was never read.',
  'made-for': ({ what, made, handset }) =>
    what === 'device'
      ? `Its own data says ${made}, the handset is ${handset}.`
      : `Its own data says the variant ${made}, the handset is ${handset}.`,
  'made-for-it': ({ product, device }) => `Its own data says ${product} (${device}).`,
  'names-nobody': () =>
    'The image names no handset, and nobody has said how they know that it is for this one.',
  'your-word': ({ devices, device, reason, fits }) =>
    fits
      ? `The image names no handset. You said that it is for ${device}: “${reason}”.`
      : `The image names no handset. You said that it is for ${devices.join(', ')}, and this one is ${device}.`,
  unreadable: ({ error }) => `It could not be read: ${error}.`,
});

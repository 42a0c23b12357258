import { wordsBy } from './words-by';

/* What is said of the way back to stock: the code of it, and how a person reads it. */

export type WayBackSays =
  | { readonly code: 'locked' | 'build-unknown' | 'root-unknown' | 'stock-already' }
  | { readonly code: 'missing'; readonly partitions: readonly string[] }
  | { readonly code: 'steps'; readonly steps: number; readonly minutes: number };

/** Short, for a table; begins in lower case. */
export const wayBackWords = wordsBy<WayBackSays>({
  locked: () => 'locked, so it is stock',
  'build-unknown': () => 'unknown: its build is not known',
  'root-unknown': () => 'unknown: where root sits is not known',
  'stock-already': () => 'stock already, as read from it',
  missing: ({ partitions }) => `stock ${partitions.join(' and ')} missing`,
  steps: ({ steps, minutes }) => `${steps} steps, about ${minutes} min`,
});

export type WayBackDeed =
  { readonly do: 'bootloader' | 'start' } | { readonly do: 'write'; readonly partition: string };

export function wayBackStepWords(step: WayBackDeed): string {
  if (step.do === 'write') return `Write the stock ${step.partition}`;
  return step.do === 'bootloader' ? 'Bring it into its bootloader' : 'Start the system';
}

/** What the other slot is worth as a way back. */
export type OtherSlotSays = 'gone' | 'until-merging' | 'older-build' | 'never-read';

export const OTHER_SLOT_WORDS: Readonly<Record<OtherSlotSays, string>> = {
  gone: 'The update is being merged, so the other slot is no way back any more.',
  'until-merging': 'The other slot is a way back until the update begins to merge.',
  'never-read': 'What the other slot holds was never read.',
  'older-build': 'The other slot holds an older build. It can only open data that this older build can read.',
};

/** Why an image stays in the vault. `slot` is null on a handset with one. */
export type Guarding =
  | { readonly code: 'way-back'; readonly partition: string; readonly handset: string }
  | {
      readonly code: 'lies-there';
      readonly partition: string;
      readonly slot: string | null;
      readonly handset: string;
    }
  | { readonly code: 'open-round' | 'own-recovery' | 'made-from'; readonly handset: string };

export const guardingWords = wordsBy<Guarding>({
  'way-back': ({ partition, handset }) =>
    `It is the way back to stock ${partition} of a build that is on ${handset}.`,
  'lies-there': ({ partition, slot, handset }) =>
    `It is on ${handset} now (${slot === null ? '' : `slot ${slot}, `}${partition}); Eterno needs it to recognise what it reads there.`,
  'open-round': ({ handset }) => `The open round of ${handset} needs it.`,
  'own-recovery': ({ handset }) => `It is the recovery of the shelf for ${handset}.`,
  'made-from': ({ handset }) => `The patched image on ${handset} was made from it.`,
});

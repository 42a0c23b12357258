/* Which region part of a firmware set goes along, against what a step does. */

/** What is found of it before a step that keeps, or one that wipes. */
export type RegionFound =
  /** The set has no part of its own for the region. */
  | { readonly code: 'no-region-part' }
  /** The one that does what the step does. */
  | { readonly code: 'region-part'; readonly file: string; readonly wipes: boolean }
  | { readonly code: 'region-both'; readonly files: readonly string[] }
  | { readonly code: 'region-other'; readonly file: string; readonly wipes: boolean }
  | { readonly code: 'region-moves'; readonly what: 'region' | 'line' };

type Of<C extends RegionFound['code']> = Extract<RegionFound, { readonly code: C }>;

/** Each finding in a sentence or two. */
export const regionWords: { readonly [C in RegionFound['code']]: (found: Of<C>) => string } = {
  'no-region-part': () => 'The set has no region part of its own: there is nothing to choose.',
  'region-part': ({ file, wipes }) =>
    wipes
      ? `${file} goes along: it erases everything.`
      : `${file} goes along: it keeps what is on the handset.`,
  'region-both': ({ files }) =>
    `Both region parts are open, ${files.join(' and ')}: one of them is written, never both. Choose it in the Firmware room.`,
  'region-other': ({ file, wipes }) =>
    wipes
      ? `${file} goes along, which erases everything, and this step keeps. Choose the other part in the Firmware room.`
      : `${file} goes along, which keeps what is there, and this step erases. Choose the other part in the Firmware room.`,
  'region-moves': ({ what }) =>
    `The ${what === 'region' ? 'region' : 'build line'} changes: what is kept may not start with it. The part that erases fits.`,
};

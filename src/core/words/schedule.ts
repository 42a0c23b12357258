import type { Dispute } from './dispute';
import { disputeWords } from './dispute';
import { wordsBy } from './words-by';

/* What comes next for a handset, what an update waits for, and what is due. Builds are build numbers. */

export interface WaitingSays {
  readonly build: string;
  /** Empty where nothing is waited for any more. */
  readonly reasons: readonly WaitingReason[];
}

export type WaitingReason =
  | { readonly code: 'days'; readonly days: number }
  | { readonly code: 'kit' }
  | { readonly code: 'modules'; readonly wanted: number; readonly known: number }
  | { readonly code: 'quiet'; readonly what: string };

const reasonWords = wordsBy<WaitingReason>({
  days: ({ days }) => `${days} more day${days === 1 ? '' : 's'}`,
  kit: () => 'until a kit is known to work on it',
  modules: ({ wanted, known }) => `until ${wanted} modules are known to work on it, ${known} are`,
  quiet: ({ what }) => `until ${what} is over`,
});

export const waitingWords = ({ build, reasons }: WaitingSays): string =>
  reasons.length === 0
    ? `Nothing more is waited for with ${build}.`
    : `${build} waits: ${reasons.map(reasonWords).join('; ')}.`;

/** A wait of the maker's or carrier's that has ended. */
export interface EndedWait {
  readonly what: string;
  readonly note: string;
}

/** `partition` is null where it is not known where root sits. */
export type NextSays =
  | { readonly code: 'round-open'; readonly round: string; readonly step: string }
  | { readonly code: 'build-unknown' | 'locked' | 'broken' | 'root-claimed' | 'all-done' }
  | { readonly code: 'contradiction'; readonly contradiction: Dispute }
  | { readonly code: 'wait-over'; readonly ended: readonly EndedWait[] }
  | {
      readonly code: 'root-lost' | 'root-unknown' | 'not-rooted';
      readonly partition: string | null;
      readonly build: string;
    }
  | { readonly code: 'update-waits'; readonly waiting: WaitingSays }
  | { readonly code: 'update-out'; readonly build: string };

const image = (partition: string | null) => partition ?? 'the image';

export const nextWords = wordsBy<NextSays>({
  'round-open': ({ round, step }) => `${round} is open. Next: ${step}.`,
  'build-unknown': () => 'Its build is not known yet. Paste what it prints, or read it over the link.',
  contradiction: ({ contradiction }) =>
    `${disputeWords(contradiction)} Nothing is written until that is settled.`,
  'wait-over': ({ ended }) =>
    `${ended.map(({ what, note }) => `The ${what} is due${note === '' ? '' : ` (${note})`}`).join('; ')}: that wait is over.`,
  locked: () =>
    'Locked, so nothing can be written. Unlocking erases it: see what is known before you decide.',
  'root-lost': ({ partition, build }) =>
    `Root was lost. Take ${image(partition)} out of ${build}, patch it, write it, prove it.`,
  broken: () => 'It does not start. Write the stock image of its build back from the vault.',
  'root-claimed': () => 'You said that root works. Eterno has not proved it yet.',
  'update-waits': ({ waiting }) => waitingWords(waiting),
  'update-out': ({ build }) => `${build} is out. Compare the ways to it before you take it.`,
  'all-done': () => 'Root is proved and the build is the newest known. Nothing to do.',
  'root-unknown': ({ partition, build }) =>
    `Whether it has root is not known. A round takes ${image(partition)} out of ${build}, patches it and proves it.`,
  'not-rooted': ({ partition, build }) =>
    `Not rooted. Take ${image(partition)} out of ${build}, patch it, write it, prove it.`,
});

const START = 'Start the round';
const CALENDAR = 'See the calendar';
/** The one button beside the sentence. */
export const NEXT_BUTTONS: Readonly<Record<NextSays['code'], string>> = {
  'round-open': 'Go on',
  'build-unknown': 'Tell Eterno its build',
  contradiction: 'Settle it',
  'wait-over': CALENDAR,
  locked: 'See what is known',
  'root-lost': START,
  broken: START,
  'root-claimed': START,
  'update-waits': CALENDAR,
  'update-out': 'Compare the ways',
  'all-done': 'See it',
  'root-unknown': START,
  'not-rooted': START,
};

export type DueSays =
  | { readonly code: 'clock-over'; readonly what: string }
  | { readonly code: 'waited'; readonly build: string }
  | { readonly code: 'not-put-back'; readonly what: string };

/** What is due on a handset, after its name. */
export const dueWords = wordsBy<DueSays>({
  'clock-over': ({ what }) => `the ${what} is over`,
  waited: ({ build }) => `${build} has waited long enough`,
  'not-put-back': ({ what }) => `not put back yet: ${what}`,
});

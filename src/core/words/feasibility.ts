import type { BackupPart } from './backups';
import { lackWords } from './backups';
import type { DataSays, FloorId, FloorSays } from './floors';
import { dataWords, FLOOR_TITLES, floorWords } from './floors';
import type { RootSays } from './root';
import { rootWords } from './root';
import { wordsBy } from './words-by';

/* Every go or no-go question before a wipe: what it asks, what is known, and what to do about it. */

export const QUESTIONS = {
  build: 'Is its exact build known?',
  unlock: 'Can it be unlocked?',
  package: 'Is the exact full package at hand?',
  partition: 'Is it known where root sits?',
  kit: 'Does a kit support it?',
  recovery: 'Is there a recovery for this variant?',
  floors: 'Is it above the three floors?',
  apps: 'Can you do without what stops working?',
  data: 'Will the data open afterwards?',
  backup: 'Is there a backup off the handset?',
} as const;
export type QuestionId = keyof typeof QUESTIONS;

export type FeasibilitySays =
  | { readonly code: 'build-known' | 'build-unknown' }
  | {
      readonly code:
        | 'unlocked'
        | 'switch-on'
        | 'switch-off'
        | 'switch-grey'
        | 'switch-hidden'
        | 'switch-absent'
        | 'switch-unread';
    }
  | { readonly code: 'switch-clock'; readonly days: number }
  | { readonly code: 'package-at-hand' | 'only-stock-kept' | 'no-package' | 'package-offered' }
  | { readonly code: 'not-offered'; readonly instead: readonly string[] }
  | {
      readonly code: 'root-disputed';
      readonly opinions: readonly { readonly witness: string; readonly partition: string | null }[];
    }
  | { readonly code: 'root-known'; readonly partition: string; readonly because: RootSays }
  | { readonly code: 'root-guessed' | 'root-nowhere' | 'root-unknown'; readonly because: RootSays }
  | { readonly code: 'level-unknown' | 'no-kit' }
  | { readonly code: 'kit'; readonly name: string; readonly channel: string }
  | { readonly code: 'recoveries'; readonly names: readonly string[] }
  | { readonly code: 'no-recovery' }
  | { readonly code: 'below-floor'; readonly floor: FloorSays }
  | { readonly code: 'floor-unknown'; readonly floor: FloorId }
  | { readonly code: 'above-floors' }
  | { readonly code: 'data-opens' | 'data-doubtful'; readonly data: DataSays }
  | { readonly code: 'no-apps-noted' | 'apps-keep-working' }
  | { readonly code: 'apps-needed' | 'apps-unknown' | 'apps-done-without'; readonly names: readonly string[] }
  | { readonly code: 'no-backup' }
  | { readonly code: 'backup' | 'old-backup'; readonly days: number }
  | { readonly code: 'part-backup'; readonly lacks: readonly BackupPart[] };

type Because = { readonly because: RootSays };
const days = (n: number) => `${n} day${n === 1 ? '' : 's'}`;
const reason = ({ because }: Because) => rootWords(because);

export const feasibilityWords = wordsBy<FeasibilitySays>({
  'build-known': () => 'Its whole fingerprint is known.',
  'build-unknown': () => 'Its build is not known.',
  unlocked: () => 'It is unlocked already.',
  'switch-on': () => 'The unlock switch is on. Unlocking erases everything on it.',
  'switch-off': () => 'The unlock switch is off.',
  'switch-grey': () => 'The unlock switch is grey.',
  'switch-hidden': () => 'The unlock switch is hidden by a guard setting.',
  'switch-absent': () => 'There is no unlock switch: this carrier or country does not let it be unlocked.',
  'switch-unread': () => 'It is not known whether it can be unlocked.',
  'switch-clock': ({ days: left }) => `The unlock switch opens in ${days(left)}.`,
  'package-at-hand': () => 'An exact full package of the installed build was opened here.',
  'only-stock-kept': () => 'No full package, but the stock image itself is in the vault.',
  'no-package': () => 'No package of the installed build was opened here.',
  'package-offered': () => 'The maker’s page offers it, and it was not opened here yet.',
  'not-offered': ({ instead }) =>
    `The maker’s page does not offer the installed build. Whole builds that it offers: ${instead.join(', ')}.`,
  'root-disputed': ({ opinions }) =>
    `Sources disagree: ${opinions.map(({ witness, partition }) => `${witness} says ${partition ?? 'none'}`).join(', ')}.`,
  'root-known': ({ partition, because }) => `${rootWords(because)} Root sits in ${partition}.`,
  'root-guessed': reason,
  'root-nowhere': reason,
  'root-unknown': reason,
  'level-unknown': () => 'Its platform level is not known.',
  'no-kit': () => 'No kit in the vault supports this release and partition.',
  kit: ({ name, channel }) => `${name} (${channel}) says it does.`,
  recoveries: ({ names }) => `${names.join(', ')}.`,
  'no-recovery': () => 'No recovery on the shelf names this handset.',
  'below-floor': ({ floor }) => floorWords(floor),
  'floor-unknown': ({ floor }) => `${FLOOR_TITLES[floor]} is not known.`,
  'above-floors': () => 'No floor stands in the way of the installed build.',
  'data-opens': ({ data }) => dataWords(data),
  'data-doubtful': ({ data }) => dataWords(data),
  'no-apps-noted': () =>
    'You have noted no app. Payment, work and banking apps and some film apps may stop on an unlocked handset.',
  'apps-keep-working': () => 'The apps you noted keep working.',
  'apps-needed': ({ names }) => `${names.join(', ')} would stop, and you need it.`,
  'apps-unknown': ({ names }) => `Not known: ${names.join(', ')}.`,
  'apps-done-without': ({ names }) => `${names.join(', ')} will stop; you said you can do without.`,
  'no-backup': () => 'No backup is noted.',
  backup: ({ days: age }) => `One of ${days(age)} ago.`,
  'old-backup': ({ days: age }) => `The newest is ${days(age)} old.`,
  'part-backup': ({ lacks }) => `It is no whole set. Not in it: ${lackWords(lacks)}.`,
});

const PASTE_DUMP = 'Paste the property dump of the running system.';
const OPEN_PACKAGE = 'Open the package of the installed build: what it holds decides.';
const BACK_UP = 'Copy its files to this computer and note it here.';

/** How to find out, or what to do about a no; codes that are a yes have none. */
const NEXT: Readonly<Partial<Record<FeasibilitySays['code'], string>>> = {
  'build-unknown': PASTE_DUMP,
  'switch-clock': 'Leave it on Wi-Fi and wait for the clock.',
  'switch-off': 'Try to turn it on in the developer options: it may be free, grey, or absent.',
  'switch-grey': 'Insert a SIM, stay on Wi-Fi, and note its clock; some handsets wait for days.',
  'switch-hidden':
    'Turn the guard setting off (its name can stand on the sheet of its own ways), then look at the switch again.',
  'switch-absent': 'Only a way that needs no unlocking is left.',
  'switch-unread': 'Look at the unlock switch in the developer options.',
  'no-package':
    'Download it and open it in the Firmware room before you unlock: some builds cannot be downloaded any more.',
  'package-offered': 'Fetch it in the Firmware room, and open it there before you unlock.',
  'not-offered':
    'Write one of those builds whole, then take its image: no image of another build belongs to the installed one.',
  'root-disputed': OPEN_PACKAGE,
  'root-guessed': OPEN_PACKAGE,
  'root-nowhere': 'Eterno knows no other way for this handset.',
  'root-unknown': 'Open its package, or paste its bootloader variables.',
  'level-unknown': PASTE_DUMP,
  'no-kit': 'Bring a kit in under Firmware, or wait for one.',
  'no-recovery': 'Ask its author which variant and release it was made for.',
  'below-floor': 'Take a build that is not below it.',
  'floor-unknown': 'Paste its bootloader variables.',
  'data-doubtful': 'Take the image of the build that runs.',
  'no-apps-noted': 'Note the apps that you need on this handset.',
  'apps-needed': 'Use another handset for it first.',
  'apps-unknown': 'Ask others with this handset, or keep them on another one.',
  'no-backup': BACK_UP,
  'old-backup': BACK_UP,
  'part-backup': BACK_UP,
};
export const feasibilityNext = ({ code }: FeasibilitySays): string | null => NEXT[code] ?? null;

/** All questions together. */
export type VerdictSays =
  | { readonly code: 'not-now'; readonly because: FeasibilitySays }
  | { readonly code: 'find-out'; readonly question: QuestionId; readonly known: FeasibilitySays }
  | { readonly code: 'go'; readonly wipes: boolean; readonly costs: readonly FeasibilitySays[] };

export const feasibilityVerdictWords = wordsBy<VerdictSays>({
  'not-now': ({ because }) => `Not now: ${feasibilityWords(because)}`,
  'find-out': ({ question, known }) =>
    `Find out first: ${QUESTIONS[question].toLowerCase()} ${feasibilityNext(known) ?? ''}`.trim(),
  go: ({ wipes, costs }) =>
    [
      'Nothing known speaks against it.',
      ...(wipes ? ['Unlocking erases the handset.'] : []),
      ...(costs.length > 0 ? [`It costs something: ${costs.map(feasibilityWords).join(' ')}`] : []),
    ].join(' '),
});

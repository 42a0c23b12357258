import type { BackupPart } from './backups';
import { lackWords } from './backups';
import type { RegionFound } from './region';
import { regionWords } from './region';
import type { FitReason } from './fit';
import { fitWords } from './fit';
import type { WriteSaw } from './write';
import { writeSawWords } from './write';
import type { RootAppFinding } from './root-app';
import { rootAppWords } from './root-app';
import { wordsBy } from './words-by';
import type { Dispute } from './dispute';
import { disputeWords } from './dispute';

/*
 * What the checks before a step say: what each asks, and what it saw as a code with what belongs to it. Words
 * are made at the edge.
 */

/**
 * A partition that is not known to hold the maker's own image of the wanted build; `slot` null on a handset
 * with one.
 */
export interface NotStock {
  readonly partition: string;
  readonly slot: string | null;
  readonly why: 'never-seen' | 'other';
}

/** What a check saw. */
export type Saw =
  | {
      readonly code:
        | 'no-image'
        | 'no-recovery'
        | 'never-looked-at'
        | 'no-package'
        | 'no-kit'
        | 'no-partition'
        | 'patched-elsewhere';
    }
  | { readonly code: 'fit'; readonly reason: FitReason }
  /** What the judgement of every write saw. */
  | { readonly code: 'write'; readonly says: WriteSaw }
  | {
      readonly code: 'root-opinions';
      readonly opinions: readonly { readonly witness: string; readonly partition: string | null }[];
    }
  | { readonly code: 'contradiction'; readonly contradiction: Dispute | null }
  | { readonly code: 'stock-kept'; readonly kept: boolean }
  | { readonly code: 'parts-kept'; readonly missing: readonly string[] }
  | { readonly code: 'active-slot'; readonly slot: string | null; readonly slotCount: number | null }
  | {
      readonly code: 'kit-levels';
      readonly kit: string;
      readonly levels: readonly [number, number] | null;
      readonly sdk: number | null;
    }
  | { readonly code: 'package-image'; readonly partition: string; readonly says: WriteSaw }
  | RegionFound
  | { readonly code: 'made-for-nobody' }
  | { readonly code: 'snapshot'; readonly state: string | null; readonly asked: 'any' | 'merging' }
  | { readonly code: 'missing-images'; readonly partitions: readonly string[] }
  | {
      readonly code: 'backup';
      readonly days: number | null;
      readonly most: number;
      readonly nothingToKeep: string | null;
      /** What is not in it; empty where it is whole, or nobody was asked. */
      readonly lacks: readonly BackupPart[];
    }
  | { readonly code: 'not-stock'; readonly where: readonly NotStock[] }
  | { readonly code: 'started-unlocked'; readonly seen: boolean }
  | { readonly code: 'unlock-switch'; readonly state: string | null; readonly seen: boolean }
  | { readonly code: 'index'; readonly build: number; readonly stored: number }
  | { readonly code: 'index-unread' }
  | { readonly code: 'maker-floor'; readonly level: string | null; readonly build: string | null }
  | { readonly code: 'tool'; readonly tool: 'own' | string | null; readonly least: string | null }
  | { readonly code: 'least-version'; readonly what: string; readonly least: string }
  | { readonly code: 'root-app'; readonly findings: readonly RootAppFinding[] }
  | { readonly code: 'listed'; readonly seen: boolean };

/** Every gate there is: its id, and what it asks. */
export const GATE_TITLES = {
  'image-build': 'The image belongs to the installed build',
  'image-partition': 'The image is for the partition that is written',
  'root-sources': 'All sources name one partition for root',
  sources: 'Nothing that is known contradicts itself',
  'image-proof': 'The patched image passed its proof',
  'stock-kept': 'The way back is kept',
  'parts-kept': 'What else is overwritten is kept in stock',
  unlocked: 'The bootloader is unlocked',
  slot: 'The slot to write is known',
  room: 'The image fits the partition',
  kit: 'The kit supports this release',
  battery: 'The battery is charged enough',
  tool: 'The tool that writes is known, and which copy of it',
  listed: 'The handset is listed in the mode that it is written in',
  'recovery-image': 'The image is a recovery, by its own content',
  'recovery-handset': 'The recovery is made for this handset',
  'recovery-home': 'Its recovery has a partition of its own',
  whole: 'Every image of the build is in the vault',
  fuse: 'The bootloader it writes is not below the fuse',
  'maker-floor': 'The build is not older than its maker still lets in',
  snapshot: 'No update waits or merges',
  merging: 'No update is merging',
  backup: 'What it holds lies somewhere else',
  'region-part': 'The region part does what this step does',
  'package-images': 'Every image in the package may go where it goes',
  package: 'A package of the wanted build for this very handset is at hand',
  switch: 'Its unlock switch is on',
  'makers-own': 'Every slot holds the maker’s own images of one build',
  started: 'It was started once while unlocked',
  'switch-seen': 'Its unlock switch was seen on',
  index: 'The build is not below the stored rollback index',
  'root-app': 'The root app can be seen, and fits its kit',
} as const;
export type GateId = keyof typeof GATE_TITLES;

const WAITS = 'Whether an update waits was never read.';

function backupWords({ days, most, nothingToKeep, lacks }: Extract<Saw, { code: 'backup' }>): string {
  if (days !== null && days <= most && lacks.length > 0 && nothingToKeep === null)
    return `The last backup off the handset is no whole set. Not in it: ${lackWords(lacks)}.`;
  if (days !== null && days <= most)
    return `The last backup off the handset is ${days} days old; at most ${most} days are accepted.`;
  if (nothingToKeep !== null)
    return `You said in this round that nothing has to be kept: “${nothingToKeep}”.`;
  if (days === null) return 'No backup off the handset is on record.';
  return `The last backup off the handset is ${days} days old, and at most ${most} days are accepted: what came since then is in no backup.`;
}

function snapshotWords({ state, asked }: Extract<Saw, { code: 'snapshot' }>): string {
  if (state === null) return WAITS;
  if (asked === 'merging')
    return state === 'merging' ? 'Its update is merging.' : 'No update merges, as last read.';
  return state === 'none' ? 'No update waits, as last read.' : `Its update is ${state}.`;
}

function switchWords({ state, seen }: Extract<Saw, { code: 'unlock-switch' }>): string {
  if (!seen) return `The switch is ${state ?? 'not read yet'}.`;
  if (state === null) return 'The switch was never read.';
  return `The switch is ${state}${state === 'on' ? ': a way back stays open.' : ': once locked, nothing could be repaired.'}`;
}

function slotWords({ slot, slotCount }: Extract<Saw, { code: 'active-slot' }>): string {
  if (slotCount === 1) return 'This handset has one slot.';
  return slot === null
    ? 'The active slot was never read; some handsets have one slot only.'
    : `Slot ${slot} is active.`;
}

const notStockWords = ({ partition, slot, why }: NotStock) =>
  `${partition}${slot === null ? '' : ` on slot ${slot}`} ${why === 'never-seen' ? 'was never read or written' : 'is not stock of this build'}`;

/** What a check saw, in one sentence. */
export const sawWords = wordsBy<Saw>({
  'no-image': () => 'No image is chosen.',
  'no-recovery': () => 'No recovery is chosen.',
  'never-looked-at': () => 'Its content was never looked at.',
  'no-package': () => 'No package was opened yet.',
  'no-kit': () => 'No kit was used.',
  fit: ({ reason }) => fitWords(reason),
  write: ({ says }) => writeSawWords(says),
  ...regionWords,
  'package-image': ({ partition, says }) => `${partition}: ${writeSawWords(says)}`,
  'root-app': ({ findings }) =>
    findings.length === 0
      ? 'Nothing was read of the root app: its question has to show when root is asked for.'
      : findings.map(rootAppWords).join(' '),
  'no-partition': () => 'Which partition is written is not known yet.',
  'patched-elsewhere': () => 'It was patched elsewhere: whoever did it knows what their kit supports.',
  'root-opinions': ({ opinions }) =>
    opinions.length === 0
      ? 'Nothing says where root sits.'
      : `${opinions.map(({ witness, partition }) => `${witness}: ${partition ?? 'none'}`).join('; ')}.`,
  contradiction: ({ contradiction }) =>
    contradiction ? disputeWords(contradiction) : 'System, bootloader and images say the same.',
  'stock-kept': ({ kept }) =>
    kept
      ? 'The stock image of the installed build is in the vault.'
      : 'The stock image of the installed build is not in the vault.',
  'parts-kept': ({ missing }) =>
    missing.length === 0
      ? 'Bootloader, radio and recovery of the installed build, as far as they are overwritten, are in the vault.'
      : `Not in the vault: ${missing.join(', ')} of the installed build. Once overwritten, only its package brings them back.`,
  'active-slot': slotWords,
  'kit-levels': ({ kit, levels, sdk }) =>
    `${kit} ${levels ? `is for platform levels ${levels.join(' to ')}` : 'names no platform levels'}; the handset runs ${sdk ?? 'a level that was not read yet'}.`,
  'made-for-nobody': () => 'Nothing says for which handset it is made.',
  snapshot: snapshotWords,
  'missing-images': ({ partitions }) =>
    partitions.length === 0 ? 'All of one build, each with its hash.' : `Missing: ${partitions.join(', ')}.`,
  backup: backupWords,
  'not-stock': ({ where }) =>
    where.length === 0
      ? 'Each was written from the vault in stock, or read back as such.'
      : `Not so: ${where.map(notStockWords).join('; ')}. Locked, it would never start again.`,
  'started-unlocked': ({ seen }) =>
    seen ? 'Seen in this round.' : 'Not seen: a build that does not start could not be mended once locked.',
  'unlock-switch': switchWords,
  index: ({ build, stored }) => `The build is at ${build}, the handset at ${stored}.`,
  'maker-floor': ({ level, build }) =>
    level === null
      ? 'No oldest build is known that its maker still lets in.'
      : `Its maker lets in ${level} and newer; the build is of ${build ?? 'a month that was not read yet'}.`,
  'index-unread': () =>
    'The stored index was never read; a build that was started from this handset while locked is not below it.',
  'least-version': ({ what, least }) =>
    `${what} may be too old: the sheet of this model asks for ${least} at least. Take a newer one, or say why this one does.`,
  tool: ({ tool, least }) =>
    least !== null
      ? `${tool} The sheet of this model asks for ${least} at least: take a newer one, or say why this one does.`
      : tool === null
        ? 'Your own commands are shown here, and their tool never said its version: let it print that, and keep it in the Store.'
        : tool === 'own'
          ? 'Eterno writes itself.'
          : tool,
  listed: ({ seen }) =>
    seen
      ? 'Seen in this round: port, cable and driver work.'
      : 'Not seen in this round. Not listed: replug, another port, its driver, and whatever else holds it.',
});

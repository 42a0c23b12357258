import type { FitReason } from './fit';
import { fitWords } from './fit';
import type { RecoverySays } from './recovery';
import { recoveryWords } from './recovery';
import { wordsBy } from './words-by';

/* What is looked at before an image is written to a partition, and what was seen of it. */

export const WRITE_PURPOSES = ['root', 'stock', 'recovery', 'ready-made', 'bootloader'] as const;
/** What an image is written for. */
export type WritePurpose = (typeof WRITE_PURPOSES)[number];

/** Every check of a write: its id, and what it asks. */
export const WRITE_CHECK_TITLES = {
  build: 'The image belongs to the build on the slot',
  handset: 'The image is made for this handset',
  partition: 'The image is for the partition that is written',
  slot: 'The slot to write is known',
  size: 'The image fits the partition',
  mode: 'The partition can be written in this mode',
  lock: 'The bootloader is unlocked',
  battery: 'The battery is charged enough',
  snapshot: 'No update that waits or merges is disturbed',
  floor: 'The bootloader it writes is not below the fuse',
  proof: 'The image is proved',
  home: 'The recovery goes where this handset keeps its recovery',
  source: 'The package starts from what is installed',
} as const;
export type WriteCheckId = keyof typeof WRITE_CHECK_TITLES;
/** Those of one image; `source` is asked of a package only. */
export type ImageCheckId = Exclude<WriteCheckId, 'source'>;

/** What a check of a write saw. */
export type WriteSaw =
  | {
      readonly code: 'build';
      /** Builds that the image is known to be of; more than one contradict each other. */
      readonly image: readonly string[];
      readonly slot: string | null;
      /** How the image's build is known. */
      readonly by: 'own bytes' | 'package' | 'stock' | 'nothing';
    }
  | { readonly code: 'month'; readonly image: string; readonly slot: string }
  | {
      readonly code: 'made-for';
      readonly what: 'device' | 'variant';
      readonly image: readonly string[];
      readonly handset: string | null;
    }
  | { readonly code: 'recovery'; readonly says: RecoverySays }
  | { readonly code: 'partition'; readonly image: string | null; readonly wanted: string }
  | { readonly code: 'no-such-partition'; readonly wanted: string }
  | { readonly code: 'not-a-bootloader'; readonly wanted: string }
  | { readonly code: 'slot'; readonly slot: string | null; readonly slotted: boolean | null }
  | { readonly code: 'size'; readonly image: number; readonly partition: number | null }
  | {
      readonly code: 'mode';
      readonly mode: string | null;
      readonly partition: string;
      readonly kind: 'bootloader' | 'logical' | 'physical' | 'unknown';
    }
  | { readonly code: 'lock'; readonly unlocked: boolean | null }
  | {
      readonly code: 'battery';
      readonly percent: number | null;
      readonly fit: boolean | null;
      readonly ageSeconds: number | null;
    }
  | {
      readonly code: 'snapshot';
      readonly state: string | null;
      readonly otherSlot: boolean | null;
      /** A build or a logical partition: it would count as a second update. */
      readonly update: boolean;
    }
  | { readonly code: 'fuse'; readonly fuse: number; readonly image: number }
  | { readonly code: 'runs'; readonly image: string; readonly running: string; readonly older: boolean }
  | { readonly code: 'floor-unknown' | 'no-bootloader' }
  | { readonly code: 'nothing-given' | 'names-a-patch' | 'not-patched' | 'no-package' }
  | { readonly code: 'bytes'; readonly same: boolean; readonly as: 'stock' | 'package' }
  | { readonly code: 'self-signed-only' }
  | { readonly code: 'patch'; readonly held: number; readonly of: number; readonly failed: string | null }
  | {
      readonly code: 'judged';
      readonly belongs: 'yes' | 'no' | "can't tell";
      readonly times: number;
      readonly unexpected: number;
      /** What speaks against it, where something does. */
      readonly against: string | null;
    }
  | { readonly code: 'trust'; readonly reason: string | null }
  | { readonly code: 'opens-up-to'; readonly sdk: number; readonly handset: number }
  | { readonly code: 'home'; readonly home: string | null; readonly wanted: string }
  | { readonly code: 'fragment'; readonly home: string; readonly only: boolean | null }
  /** Builds of a package are build numbers; `brings` is null where it names none. */
  | { readonly code: 'package-build'; readonly brings: string | null; readonly wanted: string }
  | { readonly code: 'package-fits'; readonly reason: FitReason }
  | { readonly code: 'package-whole' | 'no-way-down' }
  | { readonly code: 'package-source'; readonly source: string | null; readonly installed: string | null }
  | {
      readonly code: 'way-down';
      readonly from: string;
      readonly to: string;
      readonly noted: 'never' | 'works' | 'refused';
    }
  | { readonly code: 'package-mode'; readonly mode: string | null };

const BY = {
  'own bytes': 'by its own bytes',
  package: 'by the package it came out of',
  stock: 'by the stock image it was made from',
  nothing: '',
} as const;

function buildWords({ image, slot, by }: Extract<WriteSaw, { code: 'build' }>): string {
  const there = slot === null ? 'which build lies on the slot is not known' : `on the slot lies ${slot}`;
  if (image.length === 0)
    return `The image names no build, and no package or stock image tells it; ${there}.`;
  if (image.length > 1) return `The image names ${image.join(' and ')}; ${there}.`;
  return `The image is of ${image[0]}, ${BY[by]}; ${there}.`;
}

function modeWords({ mode, partition, kind }: Extract<WriteSaw, { code: 'mode' }>): string {
  if (mode === null) return 'In which mode the handset is was not read.';
  const where = { system: 'the running system', userspace: 'user-space flashing' }[mode] ?? mode;
  if (kind === 'bootloader')
    return `${partition} is written in the bootloader only; the handset is in ${where}.`;
  if (kind === 'logical')
    return `${partition} is a logical partition, written in user-space flashing only; the handset is in ${where}.`;
  if (kind === 'unknown')
    return `Whether ${partition} is a logical partition was not read; the handset is in ${where}.`;
  return `The handset is in ${where}.`;
}

const HOUR = 3600;
function batteryWords({ percent, fit, ageSeconds }: Extract<WriteSaw, { code: 'battery' }>): string {
  if (percent === null && fit === null)
    return 'The battery was not read: look at the handset, half full or more.';
  const value = percent === null ? (fit ? 'fit for a write' : 'too low for a write') : `${percent} %`;
  if (ageSeconds === null) return `The battery was ${value} at a time that is not known: look at it again.`;
  if (ageSeconds > HOUR) return `The battery was ${value} more than an hour ago: look at it again.`;
  return (percent ?? 100) < 30 || fit === false
    ? `The battery is ${value}: under 30 % nothing is written. Charge it first.`
    : `The battery is ${value}.`;
}

function snapshotWords({ state, otherSlot, update }: Extract<WriteSaw, { code: 'snapshot' }>): string {
  if (state === 'none' || state === 'done' || state === 'cancelled') return 'No update waits or merges.';
  if (state === null) return 'Whether an update waits or merges was not read.';
  if (update) return `An update is ${state}, and this would be a second one: finish or call off the first.`;
  if (state === 'merging' && otherSlot !== false)
    return 'An update merges: from then on the other slot holds no system, so nothing is written there.';
  return `An update is ${state}; this image does not disturb it.`;
}

function judgedWords({ belongs, times, unexpected, against }: Extract<WriteSaw, { code: 'judged' }>): string {
  if (belongs === 'no')
    return `It does not come from this stock image: ${against ?? 'something speaks against it'}.`;
  if (times > 1) return `It was patched ${times} times: patch the stock image once instead.`;
  if (belongs === "can't tell") return 'Nothing in it says whether it was made from this stock image.';
  if (unexpected > 0)
    return `It comes from this stock image, and ${unexpected} things in it are changed that a patch has no reason to change.`;
  return times === 0
    ? 'It comes from this stock image, and nothing in it says that it is patched.'
    : 'It comes from this stock image, and only what a patch changes is changed.';
}

/** What a check of a write saw, in one sentence. */
export const writeSawWords = wordsBy<WriteSaw>({
  build: buildWords,
  month: ({ image, slot }) => `The image’s own patch level is ${image}, the build on the slot has ${slot}.`,
  'made-for': ({ what, image, handset }) =>
    image.length === 0
      ? 'Nothing says for which handset the image is made.'
      : handset === null
        ? `The image is made for ${image.join(', ')}; the handset’s code name was not read.`
        : `The image is made for the ${what === 'device' ? 'handset' : 'variant'} ${image.join(', ')}; this one is ${handset}.`,
  recovery: ({ says }) => recoveryWords(says),
  partition: ({ image, wanted }) =>
    image === null
      ? `The image’s own bytes do not say for which partition it is; written is ${wanted}.`
      : `The image is for ${image}; written is ${wanted}.`,
  'no-such-partition': ({ wanted }) => `This handset has no partition ${wanted}.`,
  'not-a-bootloader': ({ wanted }) => `${wanted} is no part of the bootloader or the radio.`,
  slot: ({ slot, slotted }) =>
    slotted === null
      ? 'Whether this handset has two slots was not read.'
      : slotted
        ? `Slot ${slot ?? 'not named'} is written.`
        : 'This partition has one slot.',
  size: ({ image, partition }) =>
    partition === null
      ? `The image has ${image.toLocaleString('en')} bytes; the partition’s size was not read.`
      : `The image has ${image.toLocaleString('en')} bytes, the partition ${partition.toLocaleString('en')}.`,
  mode: modeWords,
  lock: ({ unlocked }) =>
    unlocked === null
      ? 'The lock state was not read.'
      : unlocked
        ? 'It says it is unlocked.'
        : 'It says it is locked: nothing can be written.',
  battery: batteryWords,
  snapshot: snapshotWords,
  fuse: ({ fuse, image }) =>
    `The handset’s fuse is at ${fuse}, this bootloader at ${image}${image >= fuse ? '.' : ': it would never start again.'}`,
  runs: ({ image, running, older }) =>
    older
      ? `This bootloader is ${image}, older than the ${running} that runs, and nothing shows that the fuse allows it: the handset might never start again.`
      : `This bootloader is ${image}; ${running} runs, so it is not below the fuse.`,
  'floor-unknown': () =>
    'Nothing shows that this bootloader reaches the fuse or is at least as new as the one that runs.',
  'no-bootloader': () => 'No bootloader is written.',
  'nothing-given': () => 'Nothing was given that proves it: name its stock image or its package.',
  'names-a-patch': () => 'It holds the note of a patch: it is no stock image.',
  'not-patched': () => 'It is the stock image itself: nothing is patched in it.',
  'no-package': () => 'It is known only by the package that it comes out of, and none was given.',
  bytes: ({ same, as }) =>
    same
      ? `It is the ${as === 'stock' ? 'stock image' : 'image of the package'}, byte for byte.`
      : `It is not the ${as === 'stock' ? 'stock image' : 'image of the package'}: its bytes differ.`,
  'self-signed-only': () =>
    'Only its own data says that it is whole; no package and no stock image confirms it.',
  patch: ({ held, of, failed }) =>
    failed === null
      ? `Patched from the stock image of this build: ${held} of ${of} checks hold.`
      : `${held} of ${of} checks hold; this one does not: ${failed}.`,
  judged: judgedWords,
  trust: ({ reason }) =>
    reason === null
      ? 'It was compared with the stock image and agrees. That you trust its maker is not recorded yet.'
      : `It was compared with the stock image and agrees. You trust its maker: “${reason}”.`,
  'opens-up-to': ({ sdk, handset }) =>
    `It opens storage up to platform level ${sdk}; the handset runs ${handset}.`,
  home: ({ home, wanted }) =>
    home === null
      ? 'Where its recovery lives was not read: read its bootloader variables.'
      : home === wanted
        ? `Its recovery lives in ${home}.`
        : `Its recovery lives in ${home}, and written would be ${wanted}.`,
  fragment: ({ home, only }) =>
    only === null
      ? `Its recovery lives in ${home}, with other things in it: it is written only as this build’s own ${home} with the recovery replaced, and no stock image was given to compare.`
      : only
        ? `It is this build’s own ${home}, with only the recovery replaced.`
        : `It is not this build’s own ${home} with only the recovery replaced.`,
  'package-build': ({ brings, wanted }) =>
    brings === null
      ? 'This package does not say which build it brings.'
      : brings === wanted
        ? `This package brings ${brings}.`
        : `This package brings ${brings}, and wanted is ${wanted}.`,
  'package-fits': ({ reason }) => fitWords(reason),
  'package-whole': () => 'It is a whole package, and starts from nothing.',
  'package-source': ({ source, installed }) =>
    `This package only changes ${source ?? 'a build that it does not name'}, and the handset has ${installed ?? 'a build that was not read'}.`,
  'no-way-down': () => 'It does not go down to an older build.',
  'way-down': ({ from, to, noted }) =>
    ({
      never: `Nobody has noted that going down from ${from} to ${to} works.`,
      works: `Going down from ${from} to ${to} is noted as working.`,
      refused: `Going down from ${from} to ${to} was refused before.`,
    })[noted],
  'package-mode': ({ mode }) =>
    mode === null
      ? 'In which mode the handset is was not read.'
      : mode === 'sideload'
        ? 'Its recovery waits for a package.'
        : `It is in ${mode}: choose the sideload in its recovery first.`,
});

import { fitPackage } from '../fit/fit-package';
import type { Judged } from '../packages/recovery-claim';
import type { GateId } from '../steps/deed';
import type { Check } from './check';
import { checkOf } from './check';

/** The image that a round is about to write, as the vault knows it. */
export interface WriteImageFacts {
  readonly partition: string;
  readonly role: 'stock' | 'patched' | 'recovery' | 'unknown';
  readonly fingerprint: string | null;
  readonly patchLevel: string | null;
  readonly sizeBytes: number;
  /** Checks of the server's own proof that held, of how many; null for an image that was not patched here. */
  readonly proof: { readonly held: number; readonly of: number } | null;
  /** For an image that is offered as a recovery of the person's own: what its own bytes say of it; null for every other. */
  readonly recovery: { readonly is: Judged; readonly forHandset: Judged } | null;
}

export interface WriteGateInput {
  /** The partition that is written: root's, or the recovery's home. */
  readonly partition: string | null;
  readonly image: WriteImageFacts | null;
  /** The stock image of the installed build is in the vault and whole. */
  readonly stockKept: boolean;
  readonly rootPartition: string | null;
  /** What the evidence of now says of where root sits. */
  readonly root: {
    readonly partition: string | null;
    readonly agree: boolean;
    readonly sure: boolean;
    readonly opinions: readonly { readonly witness: string; readonly partition: string | null }[];
  };
  /** Sources that contradict each other, in words. */
  readonly contradictions: readonly string[];
  /** The partition that its recovery lives in; null where that was never read. */
  readonly recoveryHome: string | null;
  readonly installed: { readonly fingerprint: string | null; readonly device: string | null; readonly patchLevel: string | null };
  readonly unlocked: boolean | null;
  readonly activeSlot: string | null;
  readonly slotCount: number | null;
  /** As it was read within the last hour; null where it was not. */
  readonly batteryOk: boolean | null;
  readonly partitionBytes: number | null;
  readonly kitSupports: { readonly name: string; readonly sdk: readonly [number, number] | null } | null;
  readonly sdk: number | null;
}

/** The checks of one image, of where it goes and of the handset it goes to (docs/method.md, "Gates"). */
export const WRITE_GATES = {
  'image-build': ({ image, installed }) => {
    const claim = image && { fingerprint: image.fingerprint, incrementalVersion: null, patchLevel: image.patchLevel, devices: [] };
    const fit = claim && fitPackage(claim, installed);
    return checkOf(
      'image-build',
      'The image belongs to the installed build',
      fit === null ? false : fit.verdict === "can't tell" ? null : fit.verdict === 'exact',
      fit === null ? 'No image is chosen.' : fit.reason,
    );
  },
  'image-partition': ({ image, partition }) =>
    checkOf(
      'image-partition',
      'The image is for the partition that is written',
      image === null || partition === null ? null : image.partition === partition,
      image === null ? 'No image is chosen.' : `An image of ${image.partition}; written is ${partition ?? 'a partition not known yet'}.`,
    ),
  'root-sources': ({ root, rootPartition }) =>
    checkOf(
      'root-sources',
      'All sources name one partition for root',
      root.partition === null || root.partition !== rootPartition ? false : root.agree || (root.sure ? null : false),
      root.opinions
        .map(({ witness, partition }) => `${witness}: ${partition ?? 'none'}`)
        .join('; ')
        .replace(/.$/, '$&.') || 'Nothing says where root sits.',
    ),
  sources: ({ contradictions }) =>
    checkOf(
      'sources',
      'Nothing that is known contradicts itself',
      contradictions.length === 0,
      contradictions[0] ?? 'System, bootloader and images say the same.',
    ),
  'image-proof': ({ image }) =>
    checkOf(
      'image-proof',
      'The patched image passed its proof',
      image === null ? null : image.role === 'stock' ? true : image.proof === null ? false : image.proof.held === image.proof.of,
      image === null
        ? 'No image is chosen.'
        : image.role === 'stock'
          ? 'A stock image: nothing was patched.'
          : image.proof
            ? `${image.proof.held} of ${image.proof.of} checks held when the server proved it.`
            : 'The server has not proved it.',
    ),
  'stock-kept': ({ stockKept }) =>
    checkOf(
      'stock-kept',
      'The way back is kept',
      stockKept,
      stockKept ? 'The stock image of the installed build is in the vault.' : 'The stock image of the installed build is not in the vault.',
    ),
  unlocked: ({ unlocked }) =>
    checkOf(
      'unlocked',
      'The bootloader is unlocked',
      unlocked,
      unlocked === null ? 'The lock state was never read.' : unlocked ? 'It says it is unlocked.' : 'It says it is locked: nothing can be written.',
    ),
  slot: ({ activeSlot, slotCount }) =>
    checkOf(
      'slot',
      'The slot to write is known',
      slotCount === 1 ? true : activeSlot === null ? null : true,
      slotCount === 1
        ? 'This handset has one slot.'
        : activeSlot === null
          ? 'The active slot was never read; some handsets have one slot only.'
          : `Slot ${activeSlot} is active.`,
    ),
  room: ({ image, partitionBytes }) =>
    checkOf(
      'room',
      'The image fits the partition',
      image === null || partitionBytes === null ? null : image.sizeBytes <= partitionBytes,
      image === null || partitionBytes === null
        ? 'The partition’s size was never read; the write itself asks for it.'
        : `${image.sizeBytes} bytes into ${partitionBytes}.`,
    ),
  kit: ({ kitSupports, sdk }) =>
    checkOf(
      'kit',
      'The kit supports this release',
      kitSupports === null || kitSupports.sdk === null || sdk === null ? null : sdk >= kitSupports.sdk[0] && sdk <= kitSupports.sdk[1],
      kitSupports === null
        ? 'No kit was used.'
        : `${kitSupports.name} is for platform levels ${kitSupports.sdk?.join(' to ') ?? 'it does not name'}; the handset runs ${sdk ?? 'a level not read yet'}.`,
    ),
  battery: ({ batteryOk }) =>
    checkOf(
      'battery',
      'The battery is charged enough',
      batteryOk,
      batteryOk === null
        ? 'Its battery was not read within the last hour: look at the handset, half full or more.'
        : batteryOk
          ? 'The handset said within the last hour that its battery is fit for a write.'
          : 'The handset says its battery is too low for a write: under 30 % nothing is written. Charge it first.',
    ),
  'recovery-image': ({ image }) =>
    checkOf(
      'recovery-image',
      'The image is a recovery, by its own content',
      image?.recovery?.is.holds ?? (image === null ? false : null),
      image?.recovery?.is.why ?? (image === null ? 'No recovery is chosen.' : 'Its content was never looked at.'),
    ),
  'recovery-handset': ({ image }) =>
    checkOf(
      'recovery-handset',
      'The recovery is made for this handset',
      image?.recovery?.forHandset.holds ?? null,
      image?.recovery?.forHandset.why ?? 'Nothing says for which handset it is made.',
    ),
  'recovery-home': ({ recoveryHome }) =>
    checkOf(
      'recovery-home',
      'Its recovery has a partition of its own',
      recoveryHome === null ? null : recoveryHome === 'recovery',
      recoveryHome === null
        ? 'Where its recovery lives was never read: paste its bootloader variables.'
        : recoveryHome === 'recovery'
          ? 'It has a partition recovery.'
          : `Its recovery lives in ${recoveryHome}, with other things in it: a whole recovery image is never written over that.`,
    ),
} satisfies Partial<Record<GateId, (input: WriteGateInput) => Check>>;

export const writeGates = (input: WriteGateInput): Check[] => Object.values(WRITE_GATES).map((gate) => gate(input));

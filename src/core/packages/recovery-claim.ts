import type { ByteSource } from '../bytes/byte-source';
import { EternoError } from '../errors';
import { imageDescriptor } from '../formats/avb/reader';
import { archivesOf } from '../formats/cpio/ramdisk';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Ports } from '../ports';
import { identifyImage } from './bare-image';
import { examineImage } from './inspect-image';
import type { RecoverySays } from '../words/recovery';
import { recoveryWords } from '../words/recovery';
import { recoveryNoteOf } from './recovery-note';
import { recoveryProgramOf } from './recovery-program';

/*
 * What an image that is offered as a recovery says of itself, by its own bytes (docs/method.md, "What may be
 * written where").
 */

export interface RecoveryClaim {
  /**
   * The partition that its verified-boot data names; null where only a boot header speaks, which does not
   * tell boot from recovery.
   */
  readonly partition: string | null;
  /**
   * What in its ramdisk makes it a recovery: a note of one, or the path of a recovery program; null where
   * nothing does.
   */
  readonly program: string | null;
  /** The newest platform level whose storage it opens, as its note says; null where it has none. */
  readonly opensUpTo: number | null;
  /** The build that its properties name, for whose handset it was made; null where they name none. */
  readonly fingerprint: string | null;
}

/** @throws {EternoError} `bad-magic` and what the readers find wrong with it */
export async function recoveryClaim(source: ByteSource, ports: Ports): Promise<RecoveryClaim> {
  const identity = await identifyImage(source, ports);
  const { report, ramdisks } = await examineImage(source, ports);
  const isBoot = report.kind === 'boot';
  const archives = ramdisks.flatMap(archivesOf);
  const named =
    !isBoot ||
    (identity.avb !== null &&
      (imageDescriptor(identity.avb) !== null || identity.build.fingerprint !== null));
  return {
    partition: named ? identity.partition : null,
    program: recoveryNoteOf(archives)?.name ?? recoveryProgramOf(archives),
    opensUpTo: recoveryNoteOf(archives)?.opensUpTo ?? null,
    fingerprint: identity.build.fingerprint,
  };
}

/** A recovery may come as a whole vendor_boot: of that only its recovery fragment is ever used. */
export const asFragment = (claim: RecoveryClaim): RecoveryClaim =>
  claim.partition === 'vendor_boot' ? { ...claim, partition: null } : claim;

/** What is known of an image as a recovery for one handset: null where nobody knows, and why. */
export interface Judged {
  readonly holds: boolean | null;
  readonly says: RecoverySays;
}

const judged = (holds: boolean | null, says: RecoverySays): Judged => ({ holds, says });

/** Whether it is a recovery at all: its verified-boot data, and what lies in its ramdisk. */
export function isRecovery({ partition, program }: RecoveryClaim): Judged {
  if (partition !== null && partition !== 'recovery') return judged(false, { code: 'image-of', partition });
  if (program === null) return judged(false, { code: 'nothing-inside' });
  return judged(true, { code: 'program', path: program, saysRecovery: partition !== null });
}

/**
 * Whether it is made for a handset: by its own properties; where they name nobody, by the word of the person
 * who kept it, with their reason.
 * @param word why the person says that it is for these code names; null where they never did
 */
export function recoveryIsFor(
  { fingerprint }: RecoveryClaim,
  { device, fingerprint: installed }: { readonly device: string | null; readonly fingerprint: string | null },
  word: { readonly devices: readonly string[]; readonly reason: string } | null,
): Judged {
  const made = fingerprint === null ? null : splitFingerprint(fingerprint);
  if (device === null) return judged(null, { code: 'handset-unread' });
  if (made) {
    if (made.device !== device)
      return judged(false, { code: 'made-for', what: 'device', made: made.device, handset: device });
    const product = installed === null ? null : (splitFingerprint(installed)?.product ?? null);
    if (product !== null && made.product !== product)
      return judged(false, { code: 'made-for', what: 'variant', made: made.product, handset: product });
    return judged(true, { code: 'made-for-it', product: made.product, device: made.device });
  }
  const reason = word?.reason.trim() ?? '';
  if (word === null || reason === '') return judged(null, { code: 'names-nobody' });
  const fits = word.devices.includes(device);
  return judged(fits, { code: 'your-word', devices: word.devices, device, reason, fits });
}

/**
 * Why an image can't go on the shelf of recoveries; null where it can. Stock images are the maker's own: they
 * are written back, not shelved.
 */
export function whyNoRecovery(role: string, claim: RecoveryClaim): string | null {
  if (role === 'stock') return 'This is a stock image. It is kept as the way back already.';
  if (role === 'patched') return 'This image was patched with a root kit.';
  const is = isRecovery(asFragment(claim));
  return is.holds === true ? null : `This image is no recovery. ${recoveryWords(is.says)}`;
}

/** @throws {EternoError} `does-not-fit` where an image can't be shelved as a recovery */
export function needRecoveryImage(role: string, claim: RecoveryClaim): void {
  const why = whyNoRecovery(role, claim);
  if (why !== null) throw new EternoError('does-not-fit', why);
}

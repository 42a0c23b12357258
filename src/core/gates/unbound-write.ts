import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Verdicted } from './check';
import { verdictOf } from './check';

/*
 * A write outside any round, from the command line: what is known of the image and of the handset, and what
 * proves that they belong together.
 */

/** A check as the command prints it. */
export interface UnboundCheck extends Verdicted {
  readonly title: string;
  readonly evidence: string;
}

export interface UnboundWrite {
  readonly image: { readonly partition: string; readonly fingerprint: string | null };
  /** Null where it is only started from memory. */
  readonly partition: string | null;
  /** Read from the bootloader now, completed by what the person gave. */
  readonly handset: {
    readonly device: string | null;
    readonly fingerprint: string | null;
    readonly unlocked: boolean | null;
    readonly batteryOk: boolean | null;
  };
  /** Whether the serial in the given facts is the bootloader's; null where one of them is not known. */
  readonly serialSame: boolean | null;
  readonly proof: { readonly holds: boolean | null; readonly why: string };
}

/**
 * What stands between an image and the handset; `overridable` is what `--unproved` may go past: what is not
 * known, never what is wrong.
 */
export function unboundWriteChecks({
  image,
  partition,
  handset,
  serialSame,
  proof,
}: UnboundWrite): UnboundCheck[] {
  const made = image.fingerprint === null ? null : splitFingerprint(image.fingerprint);
  const check = (id: string, title: string, value: boolean | null, evidence: string): UnboundCheck => ({
    id,
    title,
    verdict: verdictOf(value),
    evidence,
    overridable: value === null,
  });
  const wanted = partition ?? 'boot';
  return [
    check(
      'partition',
      'The image is for this partition',
      image.partition === wanted,
      `An image of ${image.partition}; wanted is ${wanted}.`,
    ),
    check(
      'serial',
      'The facts are this handset’s',
      serialSame,
      serialSame === null
        ? 'No serial was given to compare.'
        : serialSame
          ? 'The same serial.'
          : 'The serial in the facts is another one.',
    ),
    check(
      'handset',
      'The image is made for this handset',
      made === null || handset.device === null ? null : made.device === handset.device,
      `The image says ${made?.device ?? 'nothing'}, the handset says ${handset.device ?? 'nothing'}.`,
    ),
    check(
      'build',
      'The image belongs to the installed build',
      image.fingerprint === null || handset.fingerprint === null
        ? null
        : image.fingerprint === handset.fingerprint,
      `The image says ${made?.id ?? 'nothing'}, the handset has ${handset.fingerprint === null ? 'a build that was not given' : (splitFingerprint(handset.fingerprint)?.id ?? handset.fingerprint)}.`,
    ),
    check('proof', 'Something proves the image', proof.holds, proof.why),
    check(
      'unlocked',
      'The bootloader is unlocked',
      handset.unlocked,
      handset.unlocked === null ? 'It does not say.' : handset.unlocked ? 'It is.' : 'It is locked.',
    ),
    check(
      'battery',
      'The battery is fit for a write',
      handset.batteryOk,
      handset.batteryOk === null
        ? 'The bootloader does not say.'
        : handset.batteryOk
          ? 'It says so.'
          : 'It is too low: charge it first.',
    ),
  ];
}

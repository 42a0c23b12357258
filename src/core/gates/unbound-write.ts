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

function check(id: string, title: string, value: boolean | null, evidence: string): UnboundCheck {
  return { id, title, verdict: verdictOf(value), evidence, overridable: value === null };
}

/** One of three sentences: for yes, no and not known. */
const saying = (value: boolean | null, yes: string, no: string, unknown: string): string =>
  value === null ? unknown : value ? yes : no;

/** Whether two values are the same; null where one of them is not known. */
const same = (a: string | null, b: string | null): boolean | null =>
  a === null || b === null ? null : a === b;

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
      saying(
        serialSame,
        'The same serial.',
        'The serial in the facts is another one.',
        'No serial was given to compare.',
      ),
    ),
    check(
      'handset',
      'The image is made for this handset',
      same(made?.device ?? null, handset.device),
      `The image says ${made?.device ?? 'nothing'}, the handset says ${handset.device ?? 'nothing'}.`,
    ),
    buildCheck(image.fingerprint, handset.fingerprint),
    check('proof', 'Something proves the image', proof.holds, proof.why),
    check(
      'unlocked',
      'The bootloader is unlocked',
      handset.unlocked,
      saying(handset.unlocked, 'It is.', 'It is locked.', 'It does not say.'),
    ),
    check(
      'battery',
      'The battery is fit for a write',
      handset.batteryOk,
      saying(
        handset.batteryOk,
        'It says so.',
        'It is too low: charge it first.',
        'The bootloader does not say.',
      ),
    ),
  ];
}

function buildCheck(image: string | null, handset: string | null): UnboundCheck {
  const idOf = (fingerprint: string) => splitFingerprint(fingerprint)?.id ?? fingerprint;
  return check(
    'build',
    'The image belongs to the installed build',
    same(image, handset),
    `The image says ${image === null ? 'nothing' : idOf(image)}, the handset has ${handset === null ? 'a build that was not given' : idOf(handset)}.`,
  );
}

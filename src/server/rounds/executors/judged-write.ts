import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import { wholePackage } from '@/core/bench/whole-build';
import { EternoError } from '@/core/errors';
import { purposeOf, proofOf } from '@/core/gates/write-gates';
import { judgeWrite } from '@/core/judge/judge-write';
import type { PackageOfImage, WriteQuestion, WriteTarget } from '@/core/judge/write-question';
import type { ListedMode } from '@/core/link/handset-link';
import { writeSawWords } from '@/core/words/write';
import { DEEDS } from '@/core/steps/deeds';
import { imageFacts } from '../round-gates';
import type { StepRun } from './running';

/*
 * The judgement of every write, asked once more by whoever sends the bytes: link, download mode and root from
 * inside alike (docs/method.md, "What may be written where"). What nobody knows was asked by the step's gates;
 * what is wrong is never sent.
 */

/** Where bytes are about to go, and in which mode. */
export interface AboutToWrite {
  readonly partition: string;
  readonly slot: string | null;
  readonly mode: ListedMode;
  /** Of the partition, as the handset said it; null where it was not asked. */
  readonly logical?: boolean | null;
  /** The build that is to lie there then; by default the one that the step is about. */
  readonly build?: string;
  /** The update that waits or merges, as the running system says it. */
  readonly snapshot?: string | null;
}

const isBootloaderPart = (partition: string) => partition === 'bootloader' || partition === 'radio';

/** The package that an image of a whole build comes out of; null where the server did not open it itself. */
function packageOf({ bench, round, step }: StepRun): PackageOfImage | null {
  if (DEEDS[step.key].writes?.what !== 'whole build') return null;
  const whole = wholePackage(bench, round.target ?? step.planned.build);
  if (whole?.readBy !== 'server') return null;
  const { fingerprint, devices, requiredBootloader } = whole.report.build;
  return { fingerprint, devices, bootloaders: requiredBootloader };
}

function targetOf(running: StepRun, about: AboutToWrite): WriteTarget {
  const { facts, known, recoveryHome, round, step, slotCount } = running;
  const { partition, slot, mode } = about;
  const number = (key: string) => (known.value(key) === null ? null : Number(known.value(key)));
  const whole = DEEDS[step.key].writes?.what === 'whole build';
  const build = about.build ?? (whole ? (round.target ?? step.planned.build) : step.planned.build);
  const read =
    facts.partitions[slot === null ? partition : `${partition}_${slot}`] ?? facts.partitions[partition];
  return {
    partition,
    slot,
    slotted: facts.slotCount === null ? null : slotCount === 2,
    runningSlot: slotCount === 1 ? true : facts.currentSlot === null ? null : facts.currentSlot === slot,
    slotBuild: build === '' ? null : build,
    slotPatchLevel: build === facts.fingerprint ? facts.patchLevel : null,
    device: facts.device,
    installed: facts.fingerprint,
    sdk: facts.sdk,
    exists: null,
    partitionBytes: read?.size ?? null,
    logical: about.logical ?? read?.logical ?? null,
    mode,
    // from inside root writes whatever the bootloader is; elsewhere it was read a moment ago
    unlocked: mode === 'system' || mode === 'recovery' ? true : facts.unlocked,
    battery: { percent: null, fit: null, ageSeconds: null },
    snapshot: about.snapshot ?? known.value('snapshot'),
    recoveryHome,
    fuse: number('antiRollback'),
    bootloader: facts.bootloader,
    bootloaderLevel: null,
  };
}

async function questionOf(
  running: StepRun,
  sent: { readonly image: KeptImage | null; readonly sizeBytes: number },
  about: AboutToWrite,
): Promise<WriteQuestion> {
  const target = targetOf(running, about);
  const packaged = packageOf(running);
  const facts = sent.image && (await imageFacts(running, running.step, sent.image));
  const image = {
    partition: sent.image?.partition ?? null,
    fingerprints: sent.image?.fingerprint ? [sent.image.fingerprint] : [],
    patchLevel: sent.image?.patchLevel ?? null,
    sizeBytes: sent.sizeBytes,
    level: sent.image?.report.avb?.rollbackIndex ?? null,
    package: facts?.role === 'patched' || facts?.recovery ? null : packaged,
  };
  if (facts === null || facts.role === 'stock')
    return {
      purpose: isBootloaderPart(about.partition) ? 'bootloader' : 'stock',
      image,
      target,
      proof: { kind: 'bytes', same: true, as: facts ? 'stock' : 'package', patched: false },
    };
  return { purpose: purposeOf(facts), image, target, proof: proofOf(facts) };
}

/**
 * Looks at a write once more before its first byte.
 * @param sent the image of the vault, or null for one that was taken out of the build's package just now
 * @throws {EternoError} `refused` for what is wrong; nothing was sent
 */
export async function needJudged(
  running: StepRun,
  sent: { readonly image: KeptImage | null; readonly sizeBytes: number },
  about: AboutToWrite,
): Promise<void> {
  const wrong = judgeWrite(await questionOf(running, sent, about)).checks.find(
    ({ holds }) => holds === false,
  );
  if (wrong)
    throw new EternoError('refused', `${writeSawWords(wrong.saw)} Nothing of this image was written.`, {
      details: { check: wrong.id },
    });
}

import 'server-only';
import type { KeptImage } from '@/core/bench/bench';
import { wholePackage } from '@/core/bench/whole-build';
import { purposeOf, proofOf } from '@/core/gates/write-gates';
import type { PackageOfImage, WriteQuestion, WriteTarget, WrittenImage } from '@/core/judge/write-question';
import type { ListedMode } from '@/core/link/handset-link';
import type { RoundStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import { partitionName } from '@/core/words/step-evidence';
import { imageFacts } from './image-facts';
import type { RoundContext } from './round-context';
import { buildOfStep } from './round-context';

/* What the judgement of a write asks of an image, of where it goes, and of the handset of a round. */

type StepContext = RoundContext & { readonly step: Pick<RoundStep, 'key' | 'planned'> };

/** Where bytes are about to go, and in which mode. */
export interface AboutToWrite {
  readonly partition: string;
  readonly slot: string | null;
  readonly mode: ListedMode;
  /** Of the partition, as the handset said it; null where it was not asked. */
  readonly logical?: boolean | null;
  /** The build that is to lie there then; by default the one that the step is about. */
  readonly build?: string;
}

const isBootloaderPart = (partition: string) => partition === 'bootloader' || partition === 'radio';

/** The package that an image of a whole build comes out of; null where the server did not open it itself. */
function packageOf({ bench, ...about }: StepContext): PackageOfImage | null {
  if (DEEDS[about.step.key].writes?.what !== 'whole build') return null;
  const whole = wholePackage(bench, buildOfStep(about, about.step, 'the target'));
  if (whole?.readBy !== 'server') return null;
  const { fingerprint, devices, requiredBootloader } = whole.report.build;
  return { fingerprint, devices, bootloaders: requiredBootloader };
}

/** The build that is to lie on the slot when the write is done. */
function buildThere(running: StepContext, { build }: AboutToWrite): string | null {
  const whole = DEEDS[running.step.key].writes?.what === 'whole build';
  return (build ?? buildOfStep(running, running.step, whole ? 'the target' : 'its build')) || null;
}

const runsFrom = ({ facts, slotCount }: StepContext, slot: string | null): boolean | null =>
  slotCount === 1 ? true : facts.currentSlot === null ? null : facts.currentSlot === slot;

/** What is known of the handset, wherever on it is written. */
function handsetOf({ facts, known, recoveryHome }: StepContext) {
  const fuse = known.value('antiRollback');
  return {
    device: facts.device,
    installed: facts.fingerprint,
    sdk: facts.sdk,
    // the gates asked it, and the handset says it at its own end
    battery: { percent: null, fit: null, ageSeconds: null },
    recoveryHome,
    fuse: fuse === null ? null : Number(fuse),
    bootloader: facts.bootloader,
    bootloaderLevel: null,
  };
}

function targetOf(running: StepContext, about: AboutToWrite): WriteTarget {
  const { facts, known, slotCount } = running;
  const { partition, slot, mode } = about;
  const slotBuild = buildThere(running, about);
  const read = facts.partitions[partitionName({ partition, slot })] ?? facts.partitions[partition];
  const inside = mode === 'system' || mode === 'recovery';
  return {
    ...handsetOf(running),
    partition,
    slot,
    slotted: facts.slotCount === null ? null : slotCount === 2,
    runningSlot: runsFrom(running, slot),
    slotBuild,
    slotPatchLevel: slotBuild === facts.fingerprint ? facts.patchLevel : null,
    exists: null,
    partitionBytes: read?.size ?? null,
    logical: about.logical ?? read?.logical ?? null,
    mode,
    // from inside root writes whatever the bootloader is; elsewhere it was read a moment ago
    unlocked: inside ? true : facts.unlocked,
    snapshot: known.value('snapshot'),
  };
}

export interface Sent {
  /** Its row in the vault; null for one that was taken out of the build's package just now. */
  readonly image: KeptImage | null;
  readonly sizeBytes: number;
}

const writtenImage = ({ image, sizeBytes }: Sent, packaged: PackageOfImage | null): WrittenImage =>
  image === null
    ? { partition: null, fingerprints: [], patchLevel: null, level: null, sizeBytes, package: packaged }
    : {
        partition: image.partition,
        fingerprints: image.fingerprint === null ? [] : [image.fingerprint],
        patchLevel: image.patchLevel,
        level: image.report.avb?.rollbackIndex ?? null,
        sizeBytes,
        package: packaged,
      };

export async function questionOf(
  running: StepContext,
  sent: Sent,
  about: AboutToWrite,
): Promise<WriteQuestion> {
  const target = targetOf(running, about);
  const facts = sent.image && (await imageFacts(running, running.step, sent.image));
  if (facts !== null && facts.role !== 'stock')
    return { purpose: purposeOf(facts), image: writtenImage(sent, null), target, proof: proofOf(facts) };
  return {
    purpose: isBootloaderPart(about.partition) ? 'bootloader' : 'stock',
    image: writtenImage(sent, packageOf(running)),
    target,
    proof: { kind: 'bytes', same: true, as: facts ? 'stock' : 'package', patched: false },
  };
}

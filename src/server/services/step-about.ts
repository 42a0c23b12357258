import 'server-only';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { HandsetProfile } from '@/core/handset/state';
import { otherSlot } from '@/core/handset/state';
import type { PlannedAbout } from '@/core/rounds/expand-plan';
import type { StepAbout } from '@/core/rounds/step-kind';

const idOf = (fingerprint: string) => splitFingerprint(fingerprint)?.id ?? 'the installed build';

/** What a step's texts are filled in with. */
export function stepAbout(
  handset: string,
  profile: Pick<HandsetProfile, 'rootPartition' | 'slotCount' | 'unlockPath'> & { readonly recoveryHome: HandsetProfile['recoveryHome'] | null },
  recovery: string | null,
  target: string | null,
  { slot, build }: Pick<PlannedAbout, 'slot' | 'build'>,
  modulesOff: readonly string[] = [],
): StepAbout {
  const two = profile.slotCount === 2;
  return {
    handset,
    partition: profile.rootPartition,
    recoveryHome: profile.recoveryHome ?? 'the partition that holds its recovery',
    slot: two ? slot : '',
    otherSlot: two ? otherSlot(slot) : '',
    build: idOf(build),
    target: idOf(target ?? build),
    unlockPath: profile.unlockPath,
    recovery: recovery ?? 'your recovery',
    modulesOff,
  };
}

import 'server-only';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import { otherSlot } from '@/core/handset/state';
import type { PlannedAbout } from '@/core/rounds/round';
import type { StepAbout } from '@/core/steps/step-kind';

const idOf = (fingerprint: string) => splitFingerprint(fingerprint)?.id ?? 'the installed build';

/**
 * What is known of a handset that a step's texts speak of; null where it is not, and the text then leaves it
 * open.
 */
export interface KnownParts {
  readonly rootPartition: string | null;
  readonly recoveryHome: string | null;
  readonly slotCount: number | null;
  readonly unlockPath: StepAbout['unlockPath'] | null;
  /** Root's image goes to both slots. */
  readonly rootOnBoth?: boolean;
}

/** What a step's texts are filled in with. */
export function stepAbout(
  handset: string,
  known: KnownParts,
  recovery: string | null,
  target: string | null,
  { slot, build }: Pick<PlannedAbout, 'slot' | 'build'>,
  { modulesOff = [], unknown = [] }: Partial<Pick<StepAbout, 'modulesOff' | 'unknown'>> = {},
): StepAbout {
  const two = known.slotCount === 2;
  return {
    handset,
    partition: known.rootPartition ?? 'the partition that carries root',
    recoveryHome: known.recoveryHome ?? 'the partition that holds its recovery',
    slot: two ? slot : '',
    otherSlot: two ? otherSlot(slot) : '',
    bothSlots: two && known.rootOnBoth === true,
    build: idOf(build),
    target: idOf(target ?? build),
    unlockPath: known.unlockPath ?? 'command',
    recovery: recovery ?? 'your recovery',
    modulesOff,
    unknown,
  };
}

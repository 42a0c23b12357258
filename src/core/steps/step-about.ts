import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Slot } from '../handset/state';
import { otherSlot } from '../handset/state';
import type { Ways } from '../ways/way-kinds';
import { NO_WAYS } from '../ways/way-kinds';
import type { StepAbout } from './step-kind';

/* What a step's texts are filled in with. */

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
  /** The round goes into a recovery of the person's own. */
  readonly ownRecovery?: boolean;
  /** The package that is installed from the running system. */
  readonly install?: string | null;
  /** Its model's own ways; none where nobody knows the model. */
  readonly ways?: Ways;
}

/** What a step's texts are filled in with. */
export function stepAbout(
  handset: string,
  known: KnownParts,
  recovery: string | null,
  target: string | null,
  { slot, build }: { readonly slot: Slot; readonly build: string },
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
    ownRecovery: known.ownRecovery === true,
    install: known.install ?? 'the package',
    modulesOff,
    unknown,
    ways: known.ways ?? NO_WAYS,
  };
}

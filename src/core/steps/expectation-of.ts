import type { ObserveExpectation, WantedPart } from '../observe/expectation';
import { splitFingerprint } from '../formats/facts/parse-facts';
import type { Slot } from '../handset/state';
import { otherSlot } from '../handset/state';
import { isKnown } from '../ways/speak';
import type { Ways } from '../ways/way-kinds';
import type { Deed, SentImage } from './deed';

/* What has to be seen of a step at this very handset, as the observations are held against it. */

/** What is known of the handset and of the step's image; null where it is not. */
export interface Observing {
  readonly serial: string | null;
  /** Code name. */
  readonly product: string | null;
  readonly slotCount: number | null;
  readonly rootPartition: string | null;
  readonly recoveryHome: string | null;
  /** Slot and build (fingerprint) that the step is about when it begins. */
  readonly slot: Slot;
  readonly build: string;
  /** Fingerprint of the build that runs in the end. */
  readonly target: string;
  /** Its data was erased in this round. */
  readonly freshWipe: boolean;
  /** The images of a whole build; empty at a step that writes none. */
  readonly parts: readonly WantedPart[];
  /** Files whose hashes are shown: what is carried over, what a package puts there; null at every other step. */
  readonly files: ObserveExpectation['files'] | null;
  /** Its model's own ways: what its tool prints. */
  readonly ways: Ways;
  /** The image of the vault that `wanted` names; bytes. */
  readonly image: (wanted: SentImage) => {
    readonly sha256: string;
    readonly size: number;
    readonly file: string;
  } | null;
}

/** The partition that a step writes or reads; null where it is of a whole build, or none. */
function partitionOf({ writes, shown }: Deed, about: Observing): string | null {
  switch (writes?.what) {
    case 'root':
      return about.rootPartition;
    case 'recovery':
      return about.recoveryHome;
    case 'bootloader':
      return 'bootloader';
    case 'whole build':
    case 'package':
      return null;
    case undefined:
      return shown?.root ? about.rootPartition : null;
  }
}

/** Null where it is of both, or the handset has one. */
function slotOf({ writes, shown }: Deed, { slot, slotCount }: Observing): Slot | null {
  const which = writes?.slot ?? shown?.slot;
  if (slotCount !== 2 || which === undefined || which === 'both') return null;
  return which === 'the other' ? otherSlot(slot) : slot;
}

function wordsOf(ways: Ways): ObserveExpectation['words'] | null {
  const [done, refused] = [ways('tool-done'), ways('tool-refused')].map((way) =>
    isKnown(way) ? way.value : [],
  );
  return done!.length + refused!.length === 0 ? null : { done: done!, refused: refused! };
}

const known = <K extends string, V>(key: K, value: V | null | undefined): Partial<Record<K, V>> =>
  value === null || value === undefined ? {} : ({ [key]: value } as Record<K, V>);

/** @returns null at a step of which nothing can be shown: only the person's word tells */
export function expectationOf(deed: Deed, about: Observing): ObserveExpectation | null {
  const { shown } = deed;
  if (!shown) return null;
  const { serial, product, freshWipe, target, parts } = about;
  const build = shown.build === undefined ? null : shown.build === 'its build' ? about.build : target;
  const wanted = deed.image ?? shown.image;
  const buildId = build === null ? undefined : splitFingerprint(build)?.id;
  return {
    step: shown.as,
    freshWipe,
    // its logical partitions are written from user-space flashing
    ...known('mode', parts.length > 0 && shown.mode === 'bootloader' ? null : shown.mode),
    ...known('parts', parts.length > 0 ? parts : null),
    ...known('lock', shown.lock),
    ...known('also', shown.also),
    ...known('serial', serial),
    ...known('product', product),
    ...known('slot', slotOf(deed, about)),
    ...known('partition', partitionOf(deed, about)),
    ...known('image', wanted && about.image(wanted)),
    ...known('files', about.files),
    ...known('words', wordsOf(about.ways)),
    ...known(
      'build',
      build === null || build === '' ? null : { fingerprint: build, ...known('buildId', buildId) },
    ),
  };
}

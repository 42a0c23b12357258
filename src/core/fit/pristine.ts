import type { PackageImage } from '../packages/package-report';

/* What an incremental update must find untouched (docs/method.md, "Full or incremental"). */

/** What lies on a partition of the running slot, as far as it is known. */
export interface SlotHolding {
  readonly partition: string;
  readonly sha256: string | null;
  readonly certainty: 'predicted' | 'read' | 'unknown';
}

export interface PristineState {
  readonly partition: string;
  readonly state: 'holds it' | 'holds another' | 'not known';
  readonly certainty: SlotHolding['certainty'];
}

/** For each image that starts from an old one: whether the running slot holds that old image. */
export function pristineStates(
  images: readonly PackageImage[],
  holdings: readonly SlotHolding[],
): PristineState[] {
  return images.flatMap(({ partition, source }): PristineState[] => {
    if (!source) return [];
    const held = holdings.find((one) => one.partition === partition);
    if (!held || held.sha256 === null)
      return [{ partition, state: 'not known', certainty: held?.certainty ?? 'unknown' }];
    return [
      {
        partition,
        state: held.sha256 === source.sha256 ? 'holds it' : 'holds another',
        certainty: held.certainty,
      },
    ];
  });
}

/** Partitions for whose sake the update would be refused on a handset; null where that can't be said. */
export function predictRefusal(
  states: readonly PristineState[],
): { readonly refusedFor: readonly string[] } | null {
  const touched = states.filter(({ state }) => state === 'holds another').map(({ partition }) => partition);
  if (touched.length > 0) return { refusedFor: touched };
  if (states.length === 0 || states.some(({ state }) => state === 'not known')) return null;
  return { refusedFor: [] };
}

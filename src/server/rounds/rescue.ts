import 'server-only';
import { createHash } from 'node:crypto';
import type { KeptImage } from '@/core/bench/bench';
import { bringsBootloader } from '@/core/bench/whole-build';
import { stockImageOf } from '@/core/bench/root-image';
import { DEEDS } from '@/core/steps/deeds';
import { eventsOf } from '../repositories/event-repository';
import type { RoundContext } from './round-context';

/* The files that a rescue needs, and whether the page that was downloaded still names them. */

export interface RescueFile {
  readonly what: 'stock image' | 'stock image with the recovery' | 'bootloader or radio';
  readonly partition: string;
  /** Empty on a handset with one. */
  readonly slot: string;
  readonly build: string;
  /** Null where the vault has not got it. */
  readonly image: KeptImage | null;
}

/** The builds that lie on the slots in the course of a round: what runs, and what its steps are about. */
function buildsBySlot({ facts, steps, slotCount }: RoundContext): readonly (readonly [string, string])[] {
  const slotOf = (slot: string | null) => (slotCount === 2 ? (slot ?? 'a') : '');
  const pairs = [
    ...(facts.fingerprint === null ? [] : [[slotOf(facts.currentSlot), facts.fingerprint] as const]),
    ...steps
      .filter(({ planned }) => planned.build !== '')
      .map(({ planned }) => [slotOf(planned.slot), planned.build] as const),
  ];
  return [...new Map(pairs.map((pair) => [pair.join(' '), pair])).values()];
}

/** Every file that puts a slot back to stock, by slot and build; those that the vault lacks too. */
export function rescueFiles(context: RoundContext): RescueFile[] {
  const { bench, rootPartition, recoveryHome, steps } = context;
  const wholeBuild = steps.some(({ key }) => DEEDS[key].writes?.parts !== undefined);
  return buildsBySlot(context).flatMap(([slot, build]) => {
    const file = (what: RescueFile['what'], partition: string): RescueFile => ({
      what,
      partition,
      slot,
      build,
      image: stockImageOf(bench, partition, build),
    });
    return [
      ...(rootPartition === null ? [] : [file('stock image', rootPartition)]),
      ...(recoveryHome === null || recoveryHome === rootPartition
        ? []
        : [file('stock image with the recovery', recoveryHome)]),
      ...(wholeBuild && bringsBootloader(bench, build)
        ? [file('bootloader or radio', 'bootloader'), file('bootloader or radio', 'radio')]
        : []),
    ];
  });
}

/** What the page says at this minute, as one word: another one means that it has to be made anew. */
export function rescueSignature(context: RoundContext): string {
  const lines = rescueFiles(context).map(({ partition, slot, build, image }) =>
    [partition, slot, build, image?.sha256 ?? 'missing'].join(' '),
  );
  const where = `${context.facts.currentSlot ?? ''} ${context.facts.fingerprint ?? ''}`;
  return createHash('sha256')
    .update([where, ...lines.sort()].join('\n'))
    .digest('hex')
    .slice(0, 16);
}

/** When the rescue page was downloaded last, and whether it says something else by now. */
export async function rescueState(
  context: RoundContext,
): Promise<{ readonly at: number | null; readonly stale: boolean }> {
  const last = (await eventsOf('rescue-page', { roundId: context.round.id })).at(-1);
  if (!last) return { at: null, stale: false };
  const { signature } = last.data;
  return { at: last.at, stale: signature !== undefined && signature !== rescueSignature(context) };
}

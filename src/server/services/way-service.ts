import 'server-only';
import type { SheetView, WayView } from '@/contracts/way-view';
import { flagSaid } from '@/core/facts/flag-said';
import type { ClassId } from '@/core/ways/classes';
import { classOf, CLASSES } from '@/core/ways/classes';
import { sheetOf } from '@/core/ways/sheet';
import type { Way, WayId, Ways } from '@/core/ways/way-kinds';
import { WAY_IDS, WAYS } from '@/core/ways/way-kinds';
import type { KeptWay } from '../db/decode';
import type { HandsetRow } from '../db/models';
import type { KnownFacts } from './fact-service';

/* The sheet of a model's own ways: what its handsets share, whichever of them it was learnt at. */

interface OfModel {
  readonly handset: Readonly<HandsetRow>;
  readonly facts: KnownFacts;
}

/** What a model is known by: its code name, and before one was read the name that the person gave it. */
export const modelOf = ({ handset, facts }: OfModel): string =>
  facts.typed.device ?? `model ${handset.model}`;

/** From this level on handsets come out with an init_boot. */
const INIT_BOOT_LEVEL = 33;

export function handsetClass({ facts: { typed, value } }: Pick<OfModel, 'facts'>): ClassId | null {
  const names = Object.keys(typed.partitions);
  return classOf({
    slotCount: typed.slotCount,
    hasInitBoot:
      names.length > 0
        ? names.some((name) => name.startsWith('init_boot'))
        : typed.firstApiLevel === null
          ? null
          : typed.firstApiLevel >= INIT_BOOT_LEVEL,
    hasDownload: flagSaid(value('downloadMode')),
    bootloaderWrites: flagSaid(value('bootloaderWrites')),
    neverUnlocks: value('unlockPath') === 'none',
  });
}

/** Of a handset, from what was said of its model; `said` may hold that of other models too. */
export const waysFrom = (of: OfModel, said: readonly KeptWay[]): Ways => {
  const model = modelOf(of);
  return sheetOf(
    said.filter((one) => one.model === model),
    handsetClass(of),
  );
};

export function wayView(id: WayId, way: Way | null): WayView {
  const { group, label, form } = WAYS[id];
  return {
    id,
    group,
    label,
    form,
    value: way?.value ?? null,
    sureness: way?.sureness ?? null,
    source: way?.source ?? null,
    at: way?.at ?? null,
  };
}

export function sheetView(subject: OfModel & { readonly ways: Ways }): SheetView {
  const id = handsetClass(subject);
  return {
    model: modelOf(subject),
    handsetClass: id === null ? null : CLASSES[id].title,
    ways: WAY_IDS.map((way) => wayView(way, subject.ways(way))),
  };
}

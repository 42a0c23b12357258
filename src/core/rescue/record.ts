import type { CauseId } from '../words/rescue';

/* What a handset's own record says for or against each cause: a factor on its chance, with the reason. */

/** A partition that was written since the system was last seen to start. */
export interface LateWrite {
  readonly what: 'root' | 'vendor-boot' | 'recovery' | 'whole build' | 'bootloader' | 'other';
  /** It was read back, or its image was proved. */
  readonly proved: boolean;
  /** It did not come to its end. */
  readonly cutShort: boolean;
}

/** Null, or empty, where nobody knows it. */
export interface RescueRecord {
  readonly writes: readonly LateWrite[];
  readonly slotCount: number | null;
  readonly snapshot: 'none' | 'snapshotted' | 'merging' | null;
  /** Chance that some module that is on breaks the build that runs; 0 where none is on it. */
  readonly moduleChance: number | null;
  /** Whether the kit that is on it is made for its release. */
  readonly kitFits: boolean | null;
  readonly batteryPercent: number | null;
  /** Connections that were lost in the middle, in the last days. */
  readonly linesLost: number;
  readonly restoresRecovery: boolean | null;
  /** Whether its own recovery opens this release's storage. */
  readonly recoveryOpens: boolean | null;
  /** It restarted before its time, in this round. */
  readonly earlyRestart: boolean;
  readonly slotSelected: boolean;
  /** Its system and its bootloader name different slots. */
  readonly slotDisputed: boolean;
  /** A build that is older than the one that opened the data was put on. */
  readonly wentDown: boolean;
  readonly unlocked: boolean | null;
  readonly debugging: boolean | null;
  /** Root's image on the slot that runs is known to be there. */
  readonly rootOnDisk: boolean | null;
  /** What was behind it in closed cases of this very handset: the same cable and computer, most often. */
  readonly before: readonly CauseId[];
}

export const NO_RECORD: RescueRecord = {
  writes: [],
  slotCount: null,
  snapshot: null,
  moduleChance: null,
  kitFits: null,
  batteryPercent: null,
  linesLost: 0,
  restoresRecovery: null,
  recoveryOpens: null,
  earlyRestart: false,
  slotSelected: false,
  slotDisputed: false,
  wentDown: false,
  unlocked: null,
  debugging: null,
  rootOnDisk: null,
  before: [],
};

export interface Factor {
  readonly cause: CauseId;
  readonly times: number;
  readonly why: string;
}

const WRITTEN: Readonly<Record<LateWrite['what'], CauseId | null>> = {
  root: 'root-image',
  'vendor-boot': 'vendor-boot',
  recovery: 'recovery-image',
  'whole build': 'half-build',
  bootloader: 'bootloader',
  other: null,
};

function ofWrites(writes: readonly LateWrite[]): Factor[] {
  const factors = writes.flatMap(({ what, proved, cutShort }): Factor[] => {
    const cause = WRITTEN[what];
    if (cause === null) return [];
    if (cutShort) return [{ cause, times: 20, why: `its last write (${what}) was cut short` }];
    return [
      proved
        ? { cause, times: 0.5, why: `${what} was written last, and what lies there was proved` }
        : { cause, times: 4, why: `${what} was written last, and nobody read it back` },
    ];
  });
  if (writes.length > 0) return factors;
  return (['root-image', 'vendor-boot', 'half-build', 'bootloader'] as const).map((cause) => ({
    cause,
    times: 0.3,
    why: 'nothing was written since its last good start',
  }));
}

/** Facts that speak by themselves, each with the value that it speaks for. */
const SINGLE: readonly ((record: RescueRecord) => Factor | null)[] = [
  ({ slotCount }) => (slotCount === 1 ? { cause: 'wrong-slot', times: 0.01, why: 'it has one slot' } : null),
  ({ slotCount }) => (slotCount === 1 ? { cause: 'tries', times: 0.01, why: 'it has one slot' } : null),
  ({ slotSelected }) =>
    slotSelected ? { cause: 'wrong-slot', times: 6, why: 'a slot was selected in this round' } : null,
  ({ slotDisputed }) =>
    slotDisputed
      ? { cause: 'wrong-slot', times: 10, why: 'its bootloader names another slot than its system did' }
      : null,
  ({ snapshot }) =>
    snapshot === 'none' ? { cause: 'snapshot', times: 0.3, why: 'no update waited, as last read' } : null,
  ({ snapshot }) =>
    snapshot === 'snapshotted' || snapshot === 'merging'
      ? { cause: 'snapshot', times: 8, why: 'an update waited or merged, as last read' }
      : null,
  ({ moduleChance: chance }) =>
    chance === null
      ? null
      : chance === 0
        ? { cause: 'module', times: 0.05, why: 'no module is on it' }
        : {
            cause: 'module',
            times: Math.max(0.2, Math.min(8, chance / 0.1)),
            why: `one of its modules breaks this build in ${Math.round(chance * 100)} of 100 cases, by what is known`,
          },
  ({ kitFits }) =>
    kitFits === null
      ? null
      : kitFits
        ? { cause: 'kit', times: 0.2, why: 'its kit is made for this release' }
        : { cause: 'kit', times: 6, why: 'its kit is not made for this release' },
  ({ batteryPercent }) =>
    batteryPercent === null
      ? null
      : batteryPercent < 15
        ? { cause: 'battery', times: 8, why: `its battery was at ${batteryPercent} %` }
        : { cause: 'battery', times: 0.2, why: `its battery was at ${batteryPercent} %` },
  ({ linesLost }) =>
    linesLost > 0
      ? {
          cause: 'cable',
          times: Math.min(6, 1 + linesLost),
          why: `the line was lost ${linesLost} times lately`,
        }
      : null,
  ({ restoresRecovery }) =>
    restoresRecovery === null
      ? null
      : restoresRecovery
        ? { cause: 'put-back', times: 5, why: 'its system puts the maker’s recovery back' }
        : { cause: 'put-back', times: 0.1, why: 'its system leaves a recovery where it is' },
  ({ recoveryOpens }) =>
    recoveryOpens === null
      ? null
      : recoveryOpens
        ? { cause: 'recovery-release', times: 0.1, why: 'its recovery opens this release’s storage' }
        : { cause: 'recovery-release', times: 8, why: 'its recovery says that it opens older releases only' },
  ({ earlyRestart }) =>
    earlyRestart ? { cause: 'stock-on-disk', times: 6, why: 'it restarted before its time' } : null,
  ({ rootOnDisk }) =>
    rootOnDisk === true
      ? { cause: 'stock-on-disk', times: 0.15, why: 'the image that carries root was read back there' }
      : null,
  ({ wentDown }) =>
    wentDown ? { cause: 'data', times: 8, why: 'an older build was put under newer data' } : null,
  ({ unlocked }) =>
    unlocked === false
      ? { cause: 'shut-bootloader', times: 5, why: 'its bootloader was locked, as last read' }
      : null,
  ({ debugging }) =>
    debugging === false
      ? { cause: 'debugging-off', times: 6, why: 'its debugging was off, as last read' }
      : null,
];

/** All that the record says, in the order in which it is told. */
export const factorsOf = (record: RescueRecord): Factor[] => [
  ...ofWrites(record.writes),
  ...SINGLE.flatMap((told) => told(record) ?? []),
  ...[...new Set(record.before)].map((cause) => ({
    cause,
    times: 3,
    why: 'it was this on this very handset before',
  })),
];

import { monthOf } from '../feasibility/patch-levels';
import type { Fit } from '../fit/fit-package';
import type { BackupPart } from '../words/backups';
import type { GateId, NotStock } from '../words/gates';
import type { WriteSaw } from '../words/write';
import { floorOf } from '../judge/write-rules';
import type { regionFound } from '../packages/region-part';
import type { RootAppJudged } from '../root-app/judge-root-app';
import { DEEDS } from '../steps/deeds';
import type { HostTool } from '../steps/host-tool';
import { hostToolWords } from '../steps/host-tool';
import type { StepKey } from '../steps/step-key';
import { fallsShort } from '../text/versions';
import type { Check } from './check';
import { checkOf } from './check';
import type { WriteGateInput } from './write-gates';
import { WRITE_GATES } from './write-gates';

/* Every gate by its id, and the checks before a step (docs/method.md, "Gates"). */

export interface StepGateInput {
  readonly write: WriteGateInput;
  /** `none`, `snapshotted`, `merging`, or null where it was never read. */
  readonly snapshot: string | null;
  /** (a) The bootloader's fuse on the handset; null where it was not read. */
  readonly fuse: number | null;
  /** The bootloader that the build brings, and the version that runs; null where the build brings none. */
  readonly bootloader: {
    readonly level: number | null;
    readonly versions: readonly string[];
    readonly running: string | null;
  } | null;
  /** (c) The oldest patch level that the maker still lets in, and the build's own; null where not known. */
  readonly makerFloor: string | null;
  readonly buildLevel: string | null;
  /** Bootloader, radio and recovery that are overwritten, and whose stock images are not in the vault. */
  readonly partsMissing: readonly string[];
  /** The images of an install package, each with what decides of it. */
  readonly packageImages: readonly {
    readonly partition: string;
    readonly holds: boolean | null;
    readonly says: WriteSaw;
  }[];
  /** The region part of a firmware set, against what the step does. */
  readonly region: ReturnType<typeof regionFound>;
  /** Images of the whole build that are not in the vault. */
  readonly wholeMissing: readonly string[];
  readonly backupDays: number | null;
  readonly backupMaxDays: number;
  /** What the last one does not hold; null where nobody was asked. */
  readonly backupLacks: readonly BackupPart[] | null;
  /** Why nothing on it has to be kept, where the person said so in this round. */
  readonly nothingToKeep: string | null;
  readonly unlockSwitch: string | null;
  /** What of the slots is not the maker's own of one build; what was never known counts. */
  readonly notStock: readonly NotStock[];
  readonly startedUnlocked: boolean;
  /** (b) The index stored in the handset and the build's own; null where not known. */
  readonly storedIndex: number | null;
  readonly buildIndex: number | null;
  /** The package that goes by sideload, against this handset. */
  readonly packageFits: Pick<Fit, 'verdict' | 'reason'> | null;
  /**
   * Who writes from outside: Eterno's own link or command, or a tool of the person's, as it names itself;
   * null where it never did.
   */
  readonly tool: 'own' | HostTool | null;
  /** The least version of it that is known to do; null where nobody named one. */
  readonly leastTool: string | null;
  /** It was listed, in this round, in the mode that it is written in. */
  readonly listed: boolean;
  /** The root app against its kit; null where nothing was read of it. */
  readonly rootApp: RootAppJudged | null;
}

type Gate = (input: StepGateInput) => Check;

/** What has to do with one image asks less than a step does. */
const ofWrites = Object.fromEntries(
  Object.entries(WRITE_GATES).map(([id, gate]) => [
    id,
    ({ write }: StepGateInput) => (gate as (input: WriteGateInput) => Check)(write),
  ]),
) as Record<keyof typeof WRITE_GATES, Gate>;

export const GATES: Readonly<Record<GateId, Gate>> = {
  ...ofWrites,
  // erasing, unlocking, a second update over one that waits or merges leaves no system
  snapshot: ({ snapshot }) =>
    checkOf('snapshot', snapshot === null ? null : snapshot === 'none', {
      code: 'snapshot',
      state: snapshot,
      asked: 'any',
    }),
  merging: ({ snapshot }) =>
    checkOf('merging', snapshot === null ? null : snapshot !== 'merging', {
      code: 'snapshot',
      state: snapshot,
      asked: 'merging',
    }),
  fuse: ({ fuse, bootloader }) => {
    if (bootloader === null) return checkOf('fuse', true, { code: 'write', says: { code: 'no-bootloader' } });
    const [holds, says] = floorOf({ ...bootloader, fuse, runningLevel: null });
    return checkOf('fuse', holds, { code: 'write', says });
  },
  'maker-floor': ({ makerFloor, buildLevel }) => {
    const [least, own] = [monthOf(makerFloor), monthOf(buildLevel)];
    return checkOf('maker-floor', least === null ? true : own === null ? null : own >= least, {
      code: 'maker-floor',
      level: makerFloor,
      build: buildLevel,
    });
  },
  // an owner may know that they have its package, or never want to go back
  'parts-kept': ({ partsMissing }) =>
    checkOf('parts-kept', partsMissing.length === 0 ? true : null, {
      code: 'parts-kept',
      missing: partsMissing,
    }),
  whole: ({ wholeMissing }) =>
    checkOf('whole', wholeMissing.length === 0, { code: 'missing-images', partitions: wholeMissing }),
  'package-images': ({ packageImages }) => {
    const [first] = packageImages;
    const worst =
      packageImages.find(({ holds }) => holds === false) ??
      packageImages.find(({ holds }) => holds === null) ??
      first;
    return worst === undefined
      ? checkOf('package-images', false, { code: 'no-image' })
      : checkOf('package-images', worst.holds, {
          code: 'package-image',
          partition: worst.partition,
          says: worst.says,
        });
  },
  'region-part': ({ region: [holds, found] }) => checkOf('region-part', holds, found),
  backup: ({ backupDays, backupMaxDays, nothingToKeep, backupLacks }) => {
    const lacks = backupLacks ?? [];
    const fresh = backupDays !== null && backupDays <= backupMaxDays && lacks.length === 0;
    return checkOf('backup', fresh || nothingToKeep !== null ? true : null, {
      code: 'backup',
      days: backupDays,
      most: backupMaxDays,
      nothingToKeep,
      lacks,
    });
  },
  'makers-own': ({ notStock }) =>
    checkOf('makers-own', notStock.length === 0, { code: 'not-stock', where: notStock }),
  started: ({ startedUnlocked }) =>
    checkOf('started', startedUnlocked, { code: 'started-unlocked', seen: startedUnlocked }),
  switch: ({ unlockSwitch }) =>
    checkOf('switch', unlockSwitch === null ? null : unlockSwitch === 'on', {
      code: 'unlock-switch',
      state: unlockSwitch,
      seen: false,
    }),
  'switch-seen': ({ unlockSwitch }) =>
    checkOf('switch-seen', unlockSwitch === null ? null : unlockSwitch === 'on', {
      code: 'unlock-switch',
      state: unlockSwitch,
      seen: true,
    }),
  index: ({ storedIndex, buildIndex }) =>
    storedIndex === null || buildIndex === null
      ? checkOf('index', null, { code: 'index-unread' })
      : checkOf('index', buildIndex >= storedIndex, {
          code: 'index',
          build: buildIndex,
          stored: storedIndex,
        }),
  package: ({ packageFits }) =>
    packageFits === null
      ? checkOf('package', false, { code: 'no-package' })
      : checkOf(
          'package',
          packageFits.verdict !== 'other handset' && packageFits.verdict !== 'other variant',
          {
            code: 'fit',
            reason: packageFits.reason,
          },
        ),
  // the host's end of the cable: the tool and which copy of it, port, cable and driver
  tool: ({ tool, leastTool }) => {
    const short = tool !== null && tool !== 'own' && fallsShort(tool.version, leastTool);
    return checkOf('tool', tool === null || short ? null : true, {
      code: 'tool',
      tool: tool === null || tool === 'own' ? tool : hostToolWords(tool),
      least: short ? leastTool : null,
    });
  },
  // whoever hid it on purpose knows how to answer it
  'root-app': ({ rootApp }) =>
    checkOf('root-app', rootApp?.fits === false ? null : true, {
      code: 'root-app',
      findings: rootApp?.findings ?? [],
    }),
  listed: ({ listed }) => checkOf('listed', listed ? true : null, { code: 'listed', seen: listed }),
};

/** The checks before a step, in the order a person would ask them; none for what changes nothing. */
export const stepGates = (key: StepKey, input: StepGateInput): Check[] =>
  DEEDS[key].gates.map((id) => GATES[id](input));

import 'server-only';
import { BACKUP_PARTS } from '@/core/backups/backup-set';
import type { BackupPart } from '@/core/words/backups';
import type { KeptImage, KeptKit, KeptModule, KeptRecovery, OpenedPackage } from '@/core/bench/bench';
import type { GoalId } from '@/core/planning/context';
import type { Evidence } from '@/core/rounds/evidence';
import type { KeptPlan, PlannedAbout, Round, RoundStep } from '@/core/rounds/round';
import { DEEDS } from '@/core/steps/deeds';
import type { StepKey } from '@/core/steps/step-key';
import { readWay } from '@/core/ways/read-way';
import type { SaidWay } from '@/core/ways/sheet';
import { isWayId } from '@/core/ways/way-kinds';
import { isStepKey } from '@/core/steps/step-table';
import type { ImageOriginRow, ImageRow, KitRow, ModuleRow, PackageRow, RoundRow, StepRow } from './models';
import type { BackupRow, ModelWayRow, RecoveryRow } from './record-rows';

/*
 * What is kept out of its rows and into them: the one place where their JSON is read and written. Every row
 * was held against its shape when the server started, or when it came in (`row-shapes.ts`), so what is read
 * here is what it says it is.
 */

export function decodeRound({ kind, plan, overrides, ...row }: Readonly<RoundRow>): Round {
  // of rounds of before there were plans the kind may be another word: nothing is worked out from theirs
  return {
    ...row,
    kind: kind as GoalId,
    plan: { version: 1, ...(JSON.parse(plan) as Omit<KeptPlan, 'version'>) },
    overrides: JSON.parse(overrides) as Round['overrides'],
  };
}

/** A way of a model, and which model. */
export interface KeptWay extends SaidWay {
  readonly id: string;
  readonly model: string;
}

/** A step and the round that it is one of. */
export interface KeptStep extends RoundStep {
  readonly roundId: string;
}

/** What a step of before there were plans is taken for: the lane of then. Its build was never kept. */
export function plannedBefore(key: StepKey): PlannedAbout {
  const { writes, here } = DEEDS[key];
  return {
    version: 1,
    slot: 'a',
    build: '',
    mode: here ? 'computer' : writes !== null || key === 'bootloader' ? 'bootloader' : 'system',
    writes: writes !== null,
    erases: false,
    starts: key === 'start',
    holds: false,
    pointOfNoReturn: false,
    rootAfter: null,
    offers: 0,
    minutes: [1, 2],
    ifItEndsHere: '',
  };
}

const LOOKED_AT = ['data-there', 'calls', 'payments'] as const;

/** What was seen when looking around named no claims once; its three lines always stood in this order. */
function decodeEvidence(key: StepKey, text: string): readonly Evidence[] {
  const evidence = JSON.parse(text) as Evidence[];
  return key === 'look-around'
    ? evidence.map((one, i) => (LOOKED_AT[i] === undefined ? one : { about: LOOKED_AT[i], ...one }))
    : evidence;
}

/** @returns null for a step that this version does not know */
export function decodeStep({
  id,
  roundId,
  key,
  state,
  startedAt,
  endedAt,
  actor,
  evidence,
  about,
}: Readonly<StepRow>): KeptStep | null {
  if (!isStepKey(key)) return null;
  const planned = JSON.parse(about) as Partial<PlannedAbout>;
  return {
    id,
    roundId,
    key,
    state,
    startedAt,
    endedAt,
    actor,
    evidence: decodeEvidence(key, evidence),
    planned: planned.build === undefined ? { ...plannedBefore(key), ...planned } : (planned as PlannedAbout),
  };
}

/** The columns of a step that change. */
export const stepColumns = ({
  key,
  state,
  startedAt,
  endedAt,
  actor,
  evidence,
  planned,
}: Omit<RoundStep, 'id'>): Omit<StepRow, 'id' | 'roundId' | 'position'> => ({
  key,
  state,
  startedAt,
  endedAt,
  actor,
  evidence: JSON.stringify(evidence),
  about: JSON.stringify(planned),
});

const parsed = <T>(text: string): T => JSON.parse(text) as T;

export const decodeImage = ({ report, proof, judged, ...row }: Readonly<ImageRow>): KeptImage => ({
  ...row,
  report: parsed(report),
  proof: proof === null ? null : parsed(proof),
  judged: judged === null ? null : parsed(judged),
});
export const imageColumns = ({ report, proof, judged, ...image }: KeptImage): ImageRow => ({
  ...image,
  report: JSON.stringify(report),
  proof: proof === null ? null : JSON.stringify(proof),
  judged: judged === null ? null : JSON.stringify(judged),
});

/** @returns null for a way that this version does not know */
export const decodeWay = ({ way, value, ...row }: Readonly<ModelWayRow>): KeptWay | null =>
  isWayId(way) ? { ...row, way, value: readWay(way, parsed(value)) } : null;

/** A backup with what was said to be in it; null where nobody was asked. */
export type KeptBackup = Omit<BackupRow, 'parts'> & { readonly parts: readonly BackupPart[] | null };
export const decodeBackup = ({ parts, ...row }: Readonly<BackupRow>): KeptBackup => ({
  ...row,
  parts: parts === null ? null : parsed<BackupPart[]>(parts).filter((part) => BACKUP_PARTS.includes(part)),
});

export const decodePackage = ({ report, ...row }: Readonly<PackageRow>): OpenedPackage => ({
  ...row,
  report: parsed(report),
});

export const decodeKit = ({ supports, changesKernel, ...row }: Readonly<KitRow>): KeptKit => ({
  ...row,
  supports: parsed(supports),
  changesKernel: changesKernel === 'yes',
});
export const kitColumns = ({ supports, changesKernel, ...kit }: KeptKit): KitRow => ({
  ...kit,
  supports: JSON.stringify(supports),
  changesKernel: changesKernel ? 'yes' : 'no',
});

export const decodeRecovery = ({ devices, ...row }: Readonly<RecoveryRow>): KeptRecovery => ({
  ...row,
  devices: parsed(devices),
});
export const decodeModule = ({ facts, ...row }: Readonly<ModuleRow>): KeptModule => ({
  ...row,
  facts: parsed(facts),
});
export const moduleColumns = ({ facts, ...module }: KeptModule): ModuleRow => ({
  ...module,
  facts: JSON.stringify(facts),
});

/** Where an image came from. */
export interface ImageOrigin extends Omit<ImageOriginRow, 'detail'> {
  readonly detail: {
    /** What was chosen of the kit's options. */
    readonly options?: Readonly<Record<string, boolean | string>>;
    readonly version: 1;
    readonly from: string;
    readonly package?: string;
    readonly name?: string;
    readonly partition?: string;
    readonly verified?: boolean;
    readonly stock?: string;
    readonly kit?: string;
    /** The recovery that was put into the stock image. */
    readonly recovery?: string;
  };
}
export const decodeOrigin = ({ detail, ...row }: Readonly<ImageOriginRow>): ImageOrigin => ({
  ...row,
  detail: parsed(detail),
});

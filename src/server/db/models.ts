import 'server-only';
import type {
  CreationOptional,
  InferAttributes,
  InferCreationAttributes,
  Model,
  ModelAttributes,
  ModelStatic,
  Sequelize,
} from 'sequelize';
import { DataTypes } from 'sequelize';
import { EternoError } from '@/core/errors';
import { COLUMNS } from './columns';
import type {
  BackupRow,
  ClockRow,
  DependencyRow,
  DowngradeEdgeRow,
  ModelWayRow,
  RecoveryRow,
  TrialRow,
} from './record-rows';

/*
 * Tables as they stand after all migrations. Times are UTC milliseconds; JSON columns hold objects that carry
 * their own version.
 */

type Row<Attributes extends object> = Model<Attributes, Attributes>;
type Table<Attributes extends object> = ModelStatic<Row<Attributes>>;

export interface HandsetRow {
  id: string;
  name: string;
  model: string;
  rootPartition: string | null;
  slotCount: number | null;
  link: 'stand-in' | 'hand';
  /** Which stand-in on this machine it is linked to. */
  profile: string | null;
  createdAt: number;
  /** When it was put away: kept, and out of the way. */
  putAwayAt: number | null;
}
export interface SecretRow {
  id: string;
  handsetId: string;
  name: string;
  value: string;
}
export interface FactRow {
  id: string;
  handsetId: string;
  key: string;
  value: string;
  source: 'typed' | 'pasted' | 'link' | 'file';
  witness: 'system' | 'bootloader' | 'image' | 'person';
  at: number;
}
export interface FactChoiceRow {
  id: string;
  handsetId: string;
  key: string;
  value: string;
  reason: string;
  at: number;
}
export interface BuildRow {
  fingerprint: string;
  device: string;
  product: string;
  buildId: string;
  patchLevel: string | null;
  publishedAt: number;
}
export interface PackageRow {
  id: string;
  fileName: string;
  sizeBytes: number;
  report: string;
  readBy: 'server' | 'page';
  openedAt: number;
}
export interface ImageRow {
  sha256: string;
  sizeBytes: number;
  partition: string;
  role: 'stock' | 'patched' | 'recovery' | 'unknown';
  fingerprint: string | null;
  patchLevel: string | null;
  kit: string | null;
  stockSha256: string | null;
  recoverySha256: string | null;
  proof: string | null;
  judged: string | null;
  trust: string | null;
  report: string;
  addedAt: number;
}
export interface ImageOriginRow {
  id: string;
  sha256: string;
  kind: 'package' | 'patch' | 'rebuilt' | 'file' | 'read-back';
  detail: string;
  at: number;
}
export interface SlotContentRow {
  id: string;
  handsetId: string;
  slot: string;
  partition: string;
  sha256: string | null;
  certainty: 'predicted' | 'read' | 'unknown';
  reason: string;
  at: number;
}
export interface KitRow {
  sha256: string;
  kitId: string;
  name: string;
  version: string;
  versionCode: number;
  channel: string;
  supports: string;
  restsAfter: number | null;
  changesKernel: 'yes' | 'no' | null;
  leastApp: number | null;
  fileName: string;
  sizeBytes: number;
  addedAt: number;
}
export interface ModuleRow {
  sha256: string;
  moduleId: string;
  name: string;
  version: string;
  versionCode: number | null;
  /** What its ZIP holds, as JSON. */
  facts: string;
  fileName: string;
  sizeBytes: number;
  addedAt: number;
}
export interface ModuleTrialRow {
  id: string;
  module: string;
  moduleVersion: string | null;
  fingerprint: string;
  handsetId: string | null;
  roundId: string | null;
  outcome: 'worked' | 'looped' | 'misbehaved';
  note: string;
  at: number;
}
export interface StepNoteRow {
  id: string;
  roundId: string;
  /** Null for a note of the round as a whole. */
  stepId: string | null;
  text: string;
  /** SHA-256 of a picture in the vault. */
  picture: string | null;
  mediaType: string | null;
  at: number;
}
/** A day or stretch of the person's own; of its UID there is one. */
export interface CalendarEntryRow {
  uid: string;
  what: string;
  startsAt: number;
  endsAt: number;
  /** In a quiet stretch no handset is changed. */
  quiet: 'yes' | 'no';
  at: number;
}
/** Who works on a handset, and until when it counts without being renewed. */
export interface LeaseRow {
  handsetId: string;
  holder: string;
  until: number;
}
export interface RoundRow {
  id: string;
  handsetId: string;
  /** What is wanted: a goal of the planner. */
  kind: string;
  lane: string;
  title: string;
  /** Fingerprint of the build that runs in the end; null in rounds of before there were plans. */
  target: string | null;
  /** What was compared when it was begun, as JSON. */
  plan: string;
  /** The last good round of the same kind. */
  basedOn: string | null;
  state: 'open' | 'closed' | 'given-up';
  version: number;
  overrides: string;
  openedAt: number;
  closedAt: number | null;
  /** Null while it is open, and in rounds of before that was asked. */
  reached: 'yes' | 'no' | null;
  /** Whether the person would do it the same way again; null where that was not answered. */
  again: 'yes' | 'no' | null;
  againNote: string | null;
}
export interface StepRow {
  id: string;
  roundId: string;
  position: number;
  key: string;
  state: 'waiting' | 'running' | 'done' | 'failed' | 'interrupted';
  startedAt: number | null;
  endedAt: number | null;
  actor: 'link' | 'hand' | 'computer' | null;
  evidence: string;
  /** What the plan says of it, as JSON: slot, build, times, offers. */
  about: string;
}
/** A temporary change that has to be undone before a round is closed. */
export interface PutBackRow {
  id: string;
  handsetId: string;
  roundId: string | null;
  kind: string;
  what: string;
  openedAt: number;
  closedAt: number | null;
  closedBy: string | null;
}
export interface SettingRow {
  key: string;
  value: string;
}
export interface EventRow {
  id: CreationOptional<number>;
  at: number;
  handsetId: string | null;
  roundId: string | null;
  kind: string;
  data: string;
}
export interface JobRow {
  id: string;
  kind: string;
  title: string;
  roundId: string | null;
  state: 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  phase: string;
  doneBytes: number;
  totalBytes: number;
  error: string | null;
  startedAt: number;
  endedAt: number | null;
}

type EventModel = Model<
  InferAttributes<Model<EventRow>> & EventRow,
  InferCreationAttributes<Model<EventRow>> & Omit<EventRow, 'id'>
>;

export interface Models {
  readonly Handset: Table<HandsetRow>;
  readonly Secret: Table<SecretRow>;
  readonly Fact: Table<FactRow>;
  readonly FactChoice: Table<FactChoiceRow>;
  readonly Build: Table<BuildRow>;
  readonly Package: Table<PackageRow>;
  readonly Image: Table<ImageRow>;
  readonly ImageOrigin: Table<ImageOriginRow>;
  readonly SlotContent: Table<SlotContentRow>;
  readonly Kit: Table<KitRow>;
  readonly Recovery: Table<RecoveryRow>;
  readonly Trial: Table<TrialRow>;
  readonly Backup: Table<BackupRow>;
  readonly Clock: Table<ClockRow>;
  readonly Dependency: Table<DependencyRow>;
  readonly DowngradeEdge: Table<DowngradeEdgeRow>;
  readonly ModelWay: Table<ModelWayRow>;
  readonly Lease: Table<LeaseRow>;
  readonly Module: Table<ModuleRow>;
  readonly ModuleTrial: Table<ModuleTrialRow>;
  readonly StepNote: Table<StepNoteRow>;
  readonly CalendarEntry: Table<CalendarEntryRow>;
  readonly Round: Table<RoundRow>;
  readonly Step: Table<StepRow>;
  readonly PutBack: Table<PutBackRow>;
  readonly Setting: Table<SettingRow>;
  readonly Event: ModelStatic<EventModel>;
  readonly Job: Table<JobRow>;
}

const isText = (column: ModelAttributes[string]) =>
  typeof column === 'object' && 'type' in column && column.type === DataTypes.TEXT;

/**
 * @throws {EternoError} `bad-field` for a character that could be written and not be brought back by a backup
 */
const keepText = (name: string) =>
  function set(this: Model, value: unknown): void {
    if (typeof value === 'string' && value.includes('\0'))
      throw new EternoError('bad-field', 'A text holds a character that can’t be kept (NUL).');
    this.setDataValue(name as never, value as never);
  };

/** Sequelize writes into the definitions it is given, so each table gets its own copies. */
function ownColumns(columns: ModelAttributes): ModelAttributes {
  return Object.fromEntries(
    Object.entries(columns).map(([name, column]) => [
      name,
      { ...(column as object), ...(isText(column) ? { set: keepText(name) } : {}) },
    ]),
  ) as ModelAttributes;
}

export function defineModels(sequelize: Sequelize): Models {
  const table = (name: keyof typeof COLUMNS) =>
    sequelize.define(name, ownColumns(COLUMNS[name]), { tableName: name, timestamps: false });
  return {
    Handset: table('handsets'),
    Secret: table('secrets'),
    Fact: table('facts'),
    FactChoice: table('fact_choices'),
    Build: table('builds'),
    Package: table('packages'),
    Image: table('images'),
    ImageOrigin: table('image_origins'),
    SlotContent: table('slot_contents'),
    Kit: table('kits'),
    Recovery: table('recoveries'),
    Trial: table('trials'),
    Backup: table('backups'),
    Clock: table('clocks'),
    Dependency: table('dependencies'),
    DowngradeEdge: table('downgrade_edges'),
    ModelWay: table('model_ways'),
    Lease: table('leases'),
    Module: table('modules'),
    ModuleTrial: table('module_trials'),
    StepNote: table('step_notes'),
    CalendarEntry: table('calendar_entries'),
    Round: table('rounds'),
    Step: table('steps'),
    PutBack: table('put_backs'),
    Setting: table('settings'),
    Event: table('events'),
    Job: table('jobs'),
  } as unknown as Models;
}

import 'server-only';
import type { Schema } from 'yup';
import { array, boolean, lazy, mixed, number, object, string } from 'yup';
import { EVIDENCE_KINDS } from '@/core/rounds/evidence';
import { readWay } from '@/core/ways/read-way';
import { isWayId, SURENESS, WAY_IDS } from '@/core/ways/way-kinds';
import type {
  FactRow,
  HandsetRow,
  ImageOriginRow,
  ImageRow,
  KitRow,
  RoundRow,
  SlotContentRow,
  StepRow,
} from './models';
import type { BackupRow, ClockRow, DependencyRow, DowngradeEdgeRow, TrialRow } from './record-rows';

/*
 * What the text columns of a row hold where the rooms rely on it: words of closed lists, and JSON of a shape.
 * A row from elsewhere (a backup, a log) that holds anything else is refused; one that is in the store
 * already is set aside at the next start.
 */

const text = string().defined();
const maybe = string().nullable().defined();
const count = number().nullable().defined();
const texts = array(text).defined();
const said = texts.default(undefined).defined();

const BUILD = object({
  fingerprint: maybe,
  buildId: maybe,
  incrementalVersion: maybe,
  patchLevel: maybe,
  devices: said,
  requiredBootloader: said,
  requiredBaseband: said,
  sourceFingerprint: maybe,
});
const PACKAGE = object({
  kind: text,
  incremental: boolean().defined(),
  build: BUILD.defined(),
  images: array(
    object({
      partition: text,
      size: count,
      sha256: maybe,
      source: object({ size: count, sha256: text }).nullable().default(undefined).defined(),
      unsupported: said,
    }).defined(),
  ).defined(),
  evidence: texts,
  warnings: texts,
});
const IMAGE = object({
  kind: text,
  size: number().defined(),
  sha256: text,
  sections: array(
    object({ name: text, offset: number().defined(), size: number().defined() }).defined(),
  ).defined(),
  ramdisk: object({ compression: text, size: number().defined() }).nullable().default(undefined).defined(),
  avb: object({
    properties: lazy((value: unknown) =>
      object(Object.fromEntries(Object.keys((value ?? {}) as object).map((key) => [key, text]))).defined(),
    ),
    rollbackIndex: number().defined(),
  })
    .nullable()
    .default(undefined)
    .defined(),
  ramdisks: array(object({ type: text }).defined()),
});
const STEP_EVIDENCE = array(
  object({
    what: text,
    strength: string()
      .oneOf(['strong', 'weak'] as const)
      .defined(),
    kind: string().oneOf(EVIDENCE_KINDS),
    says: string().oneOf(['no', 'unknown'] as const),
    nothingKept: string(),
  }).defined(),
).defined();

/** JSON columns by table and column. */
const JSON_COLUMNS: Readonly<Record<string, Readonly<Record<string, Schema>>>> = {
  packages: { report: PACKAGE.defined() },
  images: {
    report: IMAGE.defined(),
    proof: array(object({ check: text, ok: boolean().defined() }).defined()).defined(),
    judged: object({
      stockSha256: text,
      belongs: string()
        .oneOf(['yes', 'no', "can't tell"] as const)
        .defined(),
      times: number().defined(),
      by: texts,
      unexpected: array(object({ code: text }).defined()).defined(),
    }).defined(),
  },
  image_origins: {
    detail: object({ package: string(), name: string(), partition: string(), stock: string() }).defined(),
  },
  kits: {
    supports: object({
      sdk: array(number().defined()).length(2).nullable(),
      partitions: array(text).nullable(),
    }).defined(),
  },
  recoveries: { devices: texts },
  modules: {
    facts: object({
      id: text,
      name: text,
      version: text,
      scopes: array(object({ scope: text, because: text }).defined()).defined(),
      paths: texts,
    }).defined(),
  },
  rounds: {
    plan: object({
      modulesOff: array(text),
      unknown: array(text),
      compared: array(object({ title: text, minutes: array(number().defined()).length(2) }).defined()),
      why: string(),
    }).defined(),
    overrides: array(object({ checkId: text, reason: text }).defined()).defined(),
  },
  steps: {
    evidence: STEP_EVIDENCE,
    about: object({
      slot: string().oneOf(['a', 'b'] as const),
      build: string(),
      minutes: array(number().defined()).length(2),
    }).defined(),
  },
  settings: { value: mixed().defined() },
  events: { data: object({}).defined() },
};

/** What the log's lines say, by kind, where something is worked out from them. */
const EVENTS: Readonly<Record<string, Schema>> = {
  'vault-checked': object({
    checked: number().defined(),
    bytes: number().defined(),
    damaged: texts,
    missing: texts,
    strays: number().defined(),
  }).defined(),
  root: object({
    state: string()
      .oneOf(['proven', 'unproven', 'stock', 'lost', 'broken', 'unknown'] as const)
      .defined(),
  }).defined(),
  'rescue-closed': object({
    cause: string().nullable().defined(),
    symptoms: array(string().required()),
    repair: string().nullable(),
    openedAt: number().nullable(),
    rung: string().nullable(),
    cable: string().nullable(),
    host: string().nullable(),
    answers: array(object({ check: text }).defined()),
    tried: array(text),
  }).defined(),
  'true-state': object({
    key: text,
    done: boolean().defined(),
    mode: text,
    slot: text,
    rooted: boolean().nullable().defined(),
    wipes: number().defined(),
    waitedMs: number().defined(),
    came: texts,
  }).defined(),
  'rescue-page': object({ signature: string() }).defined(),
  'file-hashed': object({ fileName: text, sha256: text }).defined(),
  'file-source': object({ fileName: text, sizeBytes: number().defined(), source: text }).defined(),
  'module-batch': object({ batch: texts, outcome: text }).defined(),
  'step-done': object({ key: text, evidence: STEP_EVIDENCE }).defined(),
};

const SETTINGS: readonly (readonly [RegExp, Schema])[] = [
  [
    /^vocabulary$/,
    object({
      shell: string(),
      tool: string(),
      vocabulary: lazy((value: unknown) =>
        object(Object.fromEntries(Object.keys((value ?? {}) as object).map((key) => [key, text]))),
      ),
    }).defined(),
  ],
  [
    /^download-page$/,
    object({ at: number().defined(), lines: array(object({}).required()).required() }).defined(),
  ],
  [
    /^rescue-case:/,
    object({
      openedAt: number().defined(),
      symptoms: texts,
      answers: array(object({}).required()).required(),
    }).defined(),
  ],
  [
    /^practice-slips$/,
    object({ counts: object({}).defined(), weight: number().min(0).max(1).nullable().defined() }).defined(),
  ],
  [/^cable(-for:|$)/, object({ at: number().defined() }).defined()],
  [/^waiting/, object({ days: number().nullable(), modules: number().nullable() }).defined()],
];

const words = <T extends string | null>(list: readonly NonNullable<T>[]): readonly string[] => list;
/** Columns that hold one word of a list. */
const WORDS: Readonly<Record<string, Readonly<Record<string, readonly string[]>>>> = {
  handsets: { link: words<HandsetRow['link']>(['stand-in', 'hand']) },
  facts: {
    source: words<FactRow['source']>(['typed', 'pasted', 'link', 'file']),
    witness: words<FactRow['witness']>(['system', 'bootloader', 'image', 'person']),
  },
  images: { role: words<ImageRow['role']>(['stock', 'patched', 'recovery', 'unknown']) },
  image_origins: {
    kind: words<ImageOriginRow['kind']>(['package', 'patch', 'rebuilt', 'file', 'read-back']),
  },
  slot_contents: { certainty: words<SlotContentRow['certainty']>(['predicted', 'read', 'unknown']) },
  kits: {
    channel: words<KitRow['channel']>(['stable', 'preview', 'unofficial']),
    changesKernel: words<'yes' | 'no'>(['yes', 'no']),
  },
  recoveries: { channel: words<KitRow['channel']>(['stable', 'preview', 'unofficial']) },
  trials: {
    shelf: words<TrialRow['shelf']>(['kit', 'recovery']),
    outcome: words<TrialRow['outcome']>(['worked', 'looped', 'misbehaved']),
  },
  module_trials: { outcome: words<TrialRow['outcome']>(['worked', 'looped', 'misbehaved']) },
  backups: {
    what: words<BackupRow['what']>(['files', 'in-system', 'image-level']),
    place: words<BackupRow['place']>(['off the handset', 'on the handset']),
  },
  clocks: {
    kind: words<ClockRow['kind']>(['unlock switch', 'mailed code', 'return window', 'tester enrolment']),
  },
  dependencies: {
    effect: words<DependencyRow['effect']>(['stops', 'keeps working', 'unknown']),
    needed: words<DependencyRow['needed']>(['yes', 'no']),
  },
  downgrade_edges: { allowed: words<DowngradeEdgeRow['allowed']>(['yes', 'no']) },
  model_ways: { way: WAY_IDS, sureness: SURENESS },
  rounds: {
    state: words<RoundRow['state']>(['open', 'closed', 'given-up']),
    again: words<RoundRow['again']>(['yes', 'no']),
    reached: words<RoundRow['reached']>(['yes', 'no']),
  },
  steps: {
    state: words<StepRow['state']>(['waiting', 'running', 'done', 'failed', 'interrupted']),
    actor: words<StepRow['actor']>(['link', 'hand', 'computer']),
  },
  calendar_entries: { quiet: ['yes', 'no'] },
};

/** The last moment that a date can hold; UTC milliseconds. */
const LAST_MOMENT = 8.64e15;
const isTime = (column: string) => /(^|[a-z])At$|^at$/.test(column);

/** What a way of a model may hold is the way's own business. */
const wayShape = (way: string) =>
  mixed()
    .defined()
    .test('way', (value) => {
      try {
        return isWayId(way) && readWay(way, value) !== null;
      } catch {
        return false;
      }
    });

function schemaOf(
  table: string,
  column: string,
  row: Readonly<Record<string, string | number | null>>,
): Schema | null {
  const schema = JSON_COLUMNS[table]?.[column] ?? null;
  if (table === 'model_ways' && column === 'value') return wayShape(String(row['way']));
  if (table === 'events' && column === 'data') return EVENTS[String(row['kind'])] ?? schema;
  if (table === 'settings' && column === 'value')
    return SETTINGS.find(([key]) => key.test(String(row['key'])))?.[1] ?? null;
  return schema;
}

function holds(schema: Schema, value: string): boolean {
  try {
    return schema.isValidSync(JSON.parse(value), { strict: true });
  } catch {
    // no JSON
    return false;
  }
}

/** Tables some of whose columns have a shape of their own. */
export const SHAPED_TABLES: readonly string[] = [
  ...new Set([...Object.keys(JSON_COLUMNS), ...Object.keys(WORDS)]),
];

/** The first column of a row that holds what no room could show; null where each is as it should be. */
export function misshapen(
  table: string,
  row: Readonly<Record<string, string | number | null>>,
): string | null {
  for (const [column, value] of Object.entries(row)) {
    if (value === null) continue;
    if (typeof value === 'number') {
      if (isTime(column) && (value < 0 || value > LAST_MOMENT)) return column;
      continue;
    }
    if (value.includes('\0')) return column;
    const list = WORDS[table]?.[column];
    if (list && !list.includes(value)) return column;
    const schema = schemaOf(table, column, row);
    if (schema && !holds(schema, value)) return column;
  }
  return null;
}

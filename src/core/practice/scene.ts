import { EternoError } from '../errors';
import { boundedJson } from '../bounded-json';
import { TRY_IT } from '../try-it/works';
import type { HiddenFaultId } from '../words/hidden-faults';
import { HIDDEN_FAULT_IDS } from '../words/hidden-faults';
import type { CauseId } from '../words/rescue';
import { lowerFirst } from '../words/sentence';
import type { SurpriseId } from '../words/surprises';
import { isSurprise, SURPRISE_WORDS } from '../words/surprises';
import type { Occasion, Odds } from './surprises';
import { drawSurprises, MOST_ODDS, OCCASIONS, USUAL_SLIPS } from './surprises';

/*
 * A scene of practice: a piece of work from its beginning, one of its usual slips, a handset that is in trouble and
 * does not say why, or a month with surprises. A number makes it the same scene for whoever opens it
 * (docs/method.md, "Practice").
 */

/** How much quicker waits pass than on a real handset; the page shows their real length. */
export const PACES = [1, 5, 20] as const;
export type Pace = (typeof PACES)[number];
export const SCENE_KINDS = ['work', 'slip', 'trouble', 'month'] as const;
export type SceneKind = (typeof SCENE_KINDS)[number];

export interface Scene {
  readonly kind: SceneKind;
  /** The world that it begins in, by the number of its piece of work; null for a copy of a handset of one's own. */
  readonly work: number | null;
  /** What is wrong or comes, and is not said, follows from it; 0 to 999,999. */
  readonly seed: number;
  readonly pace: Pace;
  /** The slip whose occasion comes; null where the scene is about none. */
  readonly slip: Occasion | null;
  /** Of a month: how often each surprise is drawn; null where nothing is known of anybody. */
  readonly odds: Odds | null;
}

/** Trouble is put into a rooted handset with two slots that has an update before it. No piece of work begins there. */
export const TROUBLE_WORLD = 21;
/** A month is that of a rooted handset whose update is out. */
export const MONTH_WORLD = 5;
/** Where its slips weigh at all, one of practice weighs as this share of a real one. */
export const PRACTICE_WEIGHT = 0.25;
export const MOST_SEED = 999_999;
/** A file of a scene is a few words. */
export const MOST_SCENE_BYTES = 4096;

/** The faults that a seed names: the first that the handset can have is put in. */
export function faultsOf({ seed }: Pick<Scene, 'seed'>): readonly HiddenFaultId[] {
  const first = seed % HIDDEN_FAULT_IDS.length;
  return [...HIDDEN_FAULT_IDS.slice(first), ...HIDDEN_FAULT_IDS.slice(0, first)];
}

/** What comes over the handset of a scene. */
export function surprisesOf({ kind, seed, slip, odds }: Scene): readonly SurpriseId[] {
  if (kind === 'month') return drawSurprises(seed, odds ?? {});
  return slip === null ? [] : [slip];
}

/** What each fault is among the causes of trouble. */
export const CAUSE_OF_FAULT: Readonly<Record<HiddenFaultId, CauseId>> = {
  'bad-module': 'module',
  'rotted-image': 'root-image',
  'wrong-slot': 'wrong-slot',
  'foreign-vendor-boot': 'vendor-boot',
  'no-tries': 'tries',
  'unopened-data': 'data',
  'cut-write': 'half-build',
  'stuck-update': 'snapshot',
  'dead-cable': 'cable',
  'debugging-off': 'debugging-off',
  'denying-app': 'root-app',
  'stock-on-disk': 'stock-on-disk',
};

const sentenceOf = (work: number) => TRY_IT.find(({ n }) => n === work)?.sentence ?? `Piece of work ${work}.`;

/** What it is called; of trouble only that there is some, of a month only that something comes. */
export function sceneTitle({ kind, work, slip }: Scene): string {
  const own = work === null ? 'A copy of your handset: ' : '';
  switch (kind) {
    case 'trouble':
      return own === '' ? 'Something is wrong with it.' : `${own}something is wrong with it.`;
    case 'month':
      return own === '' ? 'A month with surprises.' : `${own}a month with surprises.`;
    case 'slip':
      return `${own === '' ? sentenceOf(work!).replace(/\.$/, '; ') : own}what comes: ${lowerFirst(SURPRISE_WORDS[slip!])}.`;
    case 'work':
      return own === '' ? sentenceOf(work!) : `${own}as it stands now.`;
  }
}

const isWhole = (value: unknown, most: number, least = 0): value is number =>
  typeof value === 'number' && Number.isInteger(value) && value >= least && value <= most;

/** @returns undefined for what is no odds */
function oddsOf(told: unknown): Odds | null | undefined {
  if (told === null || told === undefined) return null;
  if (typeof told !== 'object' || Array.isArray(told)) return undefined;
  const known = Object.entries(told);
  return known.every(([id, weight]) => isSurprise(id) && isWhole(weight, MOST_ODDS, 1))
    ? (Object.fromEntries(known) as Odds)
    : undefined;
}

const isOccasion = (value: unknown): value is Occasion => OCCASIONS.some((one) => one === value);

/** Whether a scene of this kind, and about this slip, begins in this world. */
function beginsIn(kind: SceneKind, work: unknown, slip: Occasion | null): boolean {
  const fits = (kind === 'slip') === (slip !== null);
  if (work === null) return fits;
  switch (kind) {
    case 'trouble':
      return fits && work === TROUBLE_WORLD;
    case 'month':
      return fits && work === MONTH_WORLD;
    case 'slip':
      return typeof work === 'number' && slip !== null && (USUAL_SLIPS[work] ?? []).includes(slip);
    case 'work':
      return fits && TRY_IT.some(({ n }) => n === work);
  }
}

/** @throws {EternoError} `bad-field` where it is no scene that there is */
export function checkScene(value: unknown): Scene {
  const told = (value ?? {}) as Partial<Record<keyof Scene, unknown>>;
  const { work, seed } = told;
  const kind = SCENE_KINDS.find((one) => one === told.kind);
  const pace = PACES.find((one) => one === told.pace);
  const slip = isOccasion(told.slip) ? told.slip : null;
  const odds = oddsOf(told.odds);
  const known = kind !== undefined && beginsIn(kind, work, slip) && (slip ?? null) === (told.slip ?? null);
  if (!known || !isWhole(seed, MOST_SEED) || pace === undefined || odds === undefined)
    throw new EternoError('bad-field', 'This is no scene of practice that this version knows.');
  if (odds !== null && kind !== 'month') throw new EternoError('bad-field', 'Only a month is drawn by odds.');
  return { kind, work: work as number | null, seed, pace, slip, odds };
}

const VERSION = 2;
/** Version 1 had the first nine faults, and trouble stood in the world of a piece of work. */
const FAULTS_1 = 9;
const WORLD_1 = 5;

/** A scene as a file to be given to somebody else. */
export const sceneFile = (scene: Scene): string =>
  `${JSON.stringify({ eternoScene: VERSION, ...scene }, null, 2)}\n`;

function fromVersion1(told: Readonly<Record<string, unknown>>): unknown {
  const { kind, work, seed } = told;
  if (kind === 'work') return told;
  return kind === 'trouble' && work === WORLD_1 && isWhole(seed, MOST_SEED)
    ? { ...told, work: TROUBLE_WORLD, seed: seed % FAULTS_1 }
    : null;
}

/** @throws {EternoError} `too-large`, `bad-field` */
export function readSceneFile(bytes: Uint8Array): Scene {
  if (bytes.length > MOST_SCENE_BYTES)
    throw new EternoError('too-large', `A scene has ${MOST_SCENE_BYTES} bytes at most.`);
  const value = boundedJson(bytes, { depth: 4, structures: 16 });
  const told = (value ?? {}) as Readonly<Record<string, unknown>>;
  if (told['eternoScene'] === VERSION) return checkScene(told);
  if (told['eternoScene'] === 1) return checkScene(fromVersion1(told));
  throw new EternoError('bad-field', 'This file holds no scene of practice.');
}

import { EternoError } from '../errors';
import { boundedJson } from '../bounded-json';
import { TRY_IT } from '../try-it/works';
import type { HiddenFaultId } from '../words/hidden-faults';
import type { CauseId } from '../words/rescue';
import { HIDDEN_FAULT_IDS } from '../words/hidden-faults';

/*
 * A scene of practice: a piece of work from its beginning, or a handset that is in trouble and does not say why. A
 * number makes it the same scene for whoever opens it (docs/method.md, "Practice").
 */

/** How much quicker waits pass than on a real handset; the page shows their real length. */
export const PACES = [1, 5, 20] as const;
export type Pace = (typeof PACES)[number];

export interface Scene {
  readonly kind: 'work' | 'trouble';
  /** The piece of work, by its number; that of a handset in trouble is the world it stands in. */
  readonly work: number;
  /** What is wrong, and is not said, follows from it; 0 to 999,999. */
  readonly seed: number;
  readonly pace: Pace;
}

/** Trouble is put into a rooted handset with two slots that has an update before it. */
export const TROUBLE_WORLD = 5;
export const MOST_SEED = 999_999;
/** A file of a scene is a few words. */
export const MOST_SCENE_BYTES = 4096;

/** The faults that a seed names: the first that the handset can have is put in. */
export function faultsOf({ seed }: Pick<Scene, 'seed'>): readonly HiddenFaultId[] {
  const first = seed % HIDDEN_FAULT_IDS.length;
  return [...HIDDEN_FAULT_IDS.slice(first), ...HIDDEN_FAULT_IDS.slice(0, first)];
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
};

/** What it is called; of trouble only that there is some. */
export function sceneTitle({ kind, work }: Scene): string {
  if (kind === 'trouble') return 'Something is wrong with it.';
  return TRY_IT.find(({ n }) => n === work)?.sentence ?? `Piece of work ${work}`;
}

const isWhole = (value: unknown, most: number): value is number =>
  typeof value === 'number' && Number.isInteger(value) && value >= 0 && value <= most;

/** @throws {EternoError} `bad-field` where it is no scene that there is */
export function checkScene(value: unknown): Scene {
  const { kind, work, seed, pace } = (value ?? {}) as Partial<Record<keyof Scene, unknown>>;
  const known = kind === 'work' ? TRY_IT.some(({ n }) => n === work) : work === TROUBLE_WORLD;
  const paced = PACES.find((one) => one === pace);
  if ((kind !== 'work' && kind !== 'trouble') || !known || !isWhole(seed, MOST_SEED) || paced === undefined)
    throw new EternoError('bad-field', 'This is no scene of practice that this version knows.');
  return { kind, work: work as number, seed, pace: paced };
}

/** A scene as a file to be given to somebody else. */
export const sceneFile = (scene: Scene): string =>
  `${JSON.stringify({ eternoScene: 1, ...scene }, null, 2)}\n`;

/** @throws {EternoError} `too-large`, `bad-field` */
export function readSceneFile(bytes: Uint8Array): Scene {
  if (bytes.length > MOST_SCENE_BYTES)
    throw new EternoError('too-large', `A scene has ${MOST_SCENE_BYTES} bytes at most.`);
  const value = boundedJson(bytes, { depth: 4, structures: 16 });
  if ((value as { eternoScene?: unknown } | null)?.eternoScene !== 1)
    throw new EternoError('bad-field', 'This file holds no scene of practice.');
  return checkScene(value);
}

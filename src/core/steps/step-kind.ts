import type { Unknown } from '../planning/context';
import type { KeyCard } from '../ways/speak';
import type { Ways } from '../ways/way-kinds';
import type { Deed } from './deed';
import type { CommandVerb } from './commands';

/** Stages of a round in their order; those that a round has no step in are folded away. */
export const STAGES = [
  'Know',
  'Fetch',
  'Protect',
  'Unlock',
  'Extract',
  'Patch',
  'Prepare',
  'Flash',
  'Prove',
  'Put back',
  'Keep',
] as const;
export type Stage = (typeof STAGES)[number];

/** A round is made of the planner's actions, and of what stands around every plan. */

/** What a person reads at a step. Texts are filled in for the handset at hand. */
export interface StepText {
  readonly title: string;
  readonly todo: string;
  readonly see: string;
  readonly dont: string;
  readonly otherwise: string;
}

/** What the handset asks in the middle of a step. */
export interface Prompt {
  readonly asks: string;
  readonly answer: string;
  /** What the wrong answer costs. */
  readonly wrong: string;
}

export interface StepAbout {
  readonly handset: string;
  /** The partition that carries root. */
  readonly partition: string;
  /** Where recovery lives. */
  readonly recoveryHome: string;
  /** Slot the step is about; empty on a handset with one slot. */
  readonly slot: string;
  readonly otherSlot: string;
  /** Root's image goes to both. */
  readonly bothSlots: boolean;
  /** Build number the step is about, and the one that runs in the end. */
  readonly build: string;
  readonly target: string;
  readonly unlockPath: 'command' | 'mailed code' | 'key chord' | 'none';
  readonly recovery: string;
  /** The round goes into a recovery of the person's own. */
  readonly ownRecovery: boolean;
  /** The package that is installed from the running system. */
  readonly install: string;
  /** What the plan depends on and nobody has read. */
  readonly unknown: readonly Unknown[];
  /** Modules that are switched off during the round; empty where that is all of them. */
  readonly modulesOff: readonly string[];
  /** Keys, menu lines and questions of its model, as far as they are known. */
  readonly ways: Ways;
}

/** A step as one record: what it does, and what a person reads of it. */
export interface StepKind {
  readonly deed: Deed;
  readonly stage: Stage;
  /** Expected and slow, in seconds; over three times slow it is stuck. */
  readonly seconds: readonly [number, number];
  /** What the one button says that does it. */
  readonly button?: string | ((about: StepAbout) => string);
  readonly text: (about: StepAbout) => StepText;
  readonly prompts?: (about: StepAbout) => readonly Prompt[];
  readonly keyCard?: (about: StepAbout) => KeyCard | null;
  /** The person's own command that does it. */
  readonly verb?: CommandVerb;
  /** How sure the rule behind it is, where it is not one that was seen done. */
  readonly sureness?: 'only said' | 'inferred';
}

export const STUCK_FACTOR = 3;

/** "init_boot on slot a". */
export const onSlotWords = (partition: string, slot: string) =>
  slot === '' ? partition : `${partition} on slot ${slot}`;

/** The same without what it does. */
export type StepWords = Omit<StepKind, 'deed'>;

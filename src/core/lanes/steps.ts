/** Stages of a round in their order; a lane's steps each belong to one. */
export const STAGES = ['Know', 'Fetch', 'Extract', 'Patch', 'Prepare', 'Flash', 'Prove', 'Keep'] as const;
export type Stage = (typeof STAGES)[number];

export type StepKey =
  'read-facts' | 'find-package' | 'take-image' | 'patch-image' | 'enter-bootloader' | 'check' | 'write-image' | 'restart' | 'prove-root' | 'close';

/** What a person reads at a step. Texts are filled in for the handset at hand. */
export interface StepText {
  readonly title: string;
  readonly todo: string;
  readonly see: string;
  readonly dont: string;
  readonly otherwise: string;
  readonly ifItEndsHere: string;
}

export interface LaneStep {
  readonly key: StepKey;
  readonly stage: Stage;
  /** Expected and slow, in seconds. */
  readonly seconds: readonly [number, number];
  /** Mode the handset is in when the step is over; the route is drawn from it. */
  readonly mode: 'system' | 'bootloader' | 'computer';
  readonly writes: boolean;
  readonly text: (about: StepAbout) => StepText;
}

export interface StepAbout {
  readonly handset: string;
  readonly partition: string;
  /** Empty on a handset with one slot. */
  readonly slot: string;
  readonly build: string;
}

import type { BackupKind, BackupPart } from '../words/backups';
import type { RootState } from '../schedule/continuity';
import type { Override } from '../gates/check';
import type { Mode, Slot } from '../handset/state';
import type { GoalId, Limits, Unknown } from '../planning/context';
import type { StepKey } from '../steps/step-key';
import type { Evidence } from './evidence';

/*
 * What a round is: its choice, its steps, and what was seen at each. Times are UTC milliseconds, builds are
 * fingerprints.
 */

/** Where the work is: a mode of the handset, or the computer. */
export type RouteMode = 'computer' | Mode;

/** What the plan says of one step; kept with the round. */
export interface PlannedAbout {
  readonly version: 1;
  /** Slot the handset is on when the step begins. */
  readonly slot: Slot;
  /** System build on that slot when the step begins; empty where it was never known. */
  readonly build: string;
  /** Where the handset is when it is over. */
  readonly mode: RouteMode;
  readonly writes: boolean;
  readonly erases: boolean;
  /** A restart that belongs here. */
  readonly starts: boolean;
  /** From here on nothing may restart until a step that starts. */
  readonly holds: boolean;
  /** After it there is no way back by the other slot, or none at all. */
  readonly pointOfNoReturn: boolean;
  /** Whether root runs when it is over; null where nothing runs. */
  readonly rootAfter: boolean | null;
  readonly offers: number;
  readonly minutes: readonly [number, number];
  readonly ifItEndsHere: string;
}

export type StepState = 'waiting' | 'running' | 'done' | 'failed' | 'interrupted';
export type Actor = 'link' | 'hand' | 'computer';

/** A step as the plan makes it. */
export interface NewStep {
  readonly key: StepKey;
  readonly planned: PlannedAbout;
}

/** A step of a round. */
export interface RoundStep extends NewStep {
  readonly id: string;
  readonly state: StepState;
  readonly startedAt: number | null;
  readonly endedAt: number | null;
  readonly actor: Actor | null;
  readonly evidence: readonly Evidence[];
}

/** One of the lanes that were compared when a round was begun. */
export interface ComparedLane {
  readonly title: string;
  readonly minutes: readonly [number, number];
  readonly wipes: number;
  readonly restarts: number;
  readonly chosen: boolean;
}

/** What a round keeps of the choice that began it. */
export interface KeptPlan {
  readonly version: 1;
  readonly limits?: Limits;
  readonly compared?: readonly ComparedLane[];
  readonly why?: string;
  /** Modules that were judged too risky to stay on. */
  readonly modulesOff?: readonly string[];
  /** What the plan depends on and nobody had read when it was made. */
  readonly unknown?: readonly Unknown[];
}

export interface Round {
  readonly id: string;
  readonly handsetId: string;
  readonly kind: GoalId;
  readonly lane: string;
  readonly title: string;
  /** Fingerprint of the build that runs in the end; null in rounds of before there were plans. */
  readonly target: string | null;
  readonly plan: KeptPlan;
  /** The last good round of the same kind. */
  readonly basedOn: string | null;
  readonly state: 'open' | 'closed' | 'given-up';
  /** Counts every change; a command names the one that it was meant for. */
  readonly version: number;
  readonly overrides: readonly Override[];
  readonly openedAt: number;
  readonly closedAt: number | null;
  /** Whether it reached what it was for; null while it is open, and in rounds of before that was asked. */
  readonly reached: 'yes' | 'no' | null;
  /** Whether the person would do it the same way again; null where that was not answered. */
  readonly again: 'yes' | 'no' | null;
  readonly againNote: string | null;
}

/** What lies on a partition now, or that nobody knows. */
export interface SlotReport {
  readonly partition: string;
  /** Null where the handset has one. */
  readonly slot: string | null;
  readonly sha256: string | null;
  readonly certainty: 'predicted' | 'read' | 'unknown';
  readonly reason: string;
}

/** How the kit of a round did on its build. */
export interface KitTrial {
  readonly outcome: 'worked' | 'looped' | 'misbehaved';
  readonly note: string;
}

export interface RootTelling {
  readonly state: RootState;
  readonly why: string;
}

/** A backup that was taken at a step. */
export interface BackupNote {
  readonly what: BackupKind;
  readonly note: string;
  readonly parts: readonly BackupPart[];
}

/** How an app did after root was put on. */
export interface AppSeen {
  readonly name: string;
  readonly how: 'works' | 'stopped';
}

/** What a step has found out or done beside its evidence; it is kept together with the step's end. */
export interface Seen {
  readonly slots: readonly SlotReport[];
  readonly root: RootTelling | null;
  readonly trials: readonly KitTrial[];
  readonly backups: readonly BackupNote[];
}

export const NOTHING_SEEN: Seen = { slots: [], root: null, trials: [], backups: [] };

/** The step to do now: the first that is not done; null where all are. */
export const currentStep = <T extends Pick<RoundStep, 'state'>>(steps: readonly T[]): T | null =>
  steps.find(({ state }) => state !== 'done') ?? null;

/**
 * Whether the system that runs at a step was erased since it last trusted a computer: nothing of it comes
 * over a link until debugging is on.
 */
export function trustsNobody(steps: readonly RoundStep[], at: Pick<RoundStep, 'id'>): boolean {
  const until = steps.slice(0, steps.findIndex(({ id }) => id === at.id) + 1);
  return (
    until.findLastIndex(({ planned }) => planned.erases) >
    until.findLastIndex(({ key }) => key === 'debugging')
  );
}

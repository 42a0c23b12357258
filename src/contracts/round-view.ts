import type { Check, Override } from '@/core/gates/check';
import type { WayBack } from '@/core/vault/way-back';
import type { Stage, StepKey, StepText } from '@/core/lanes/steps';

export type StepState = 'waiting' | 'running' | 'done' | 'failed' | 'interrupted';

/** One thing that was seen; weak evidence is somebody's word or a sign that can deceive. */
export interface Evidence {
  readonly what: string;
  readonly strength: 'strong' | 'weak';
}

export interface StepView {
  readonly id: string;
  readonly key: StepKey;
  readonly stage: Stage;
  readonly state: StepState;
  readonly text: StepText;
  readonly seconds: readonly [number, number];
  readonly mode: 'system' | 'bootloader' | 'computer';
  readonly writes: boolean;
  readonly startedAt: number | null;
  readonly endedAt: number | null;
  readonly actor: 'link' | 'hand' | 'computer' | null;
  readonly evidence: readonly Evidence[];
}

export interface ImageBrief {
  readonly sha256: string;
  readonly partition: string;
  readonly build: string | null;
  readonly kit: string | null;
  readonly sizeBytes: number;
}

export interface SignOffClaim {
  readonly claim: string;
  readonly evidence: readonly Evidence[];
}

export interface RoundView {
  readonly id: string;
  readonly version: number;
  readonly title: string;
  readonly lane: string;
  readonly state: 'open' | 'closed' | 'given-up';
  readonly handset: {
    readonly id: string;
    readonly name: string;
    readonly link: 'stand-in' | 'hand';
    readonly build: string | null;
    readonly slot: string;
  };
  readonly partition: string;
  readonly steps: readonly StepView[];
  /** Index of the step to do now; null when all are done. */
  readonly current: number | null;
  readonly stock: ImageBrief | null;
  readonly patched: ImageBrief | null;
  readonly checks: readonly Check[];
  readonly overrides: readonly Override[];
  readonly signOff: readonly SignOffClaim[];
  /** At this minute, whatever the round is at. */
  readonly wayBack: WayBack;
  readonly runningJob: string | null;
  readonly openedAt: number;
  readonly closedAt: number | null;
}

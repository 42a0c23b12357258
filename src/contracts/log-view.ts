import type { Evidence } from '@/core/rounds/evidence';
import type { Stage } from '@/core/rounds/step-kind';

export interface LogStep {
  readonly key: string;
  readonly title: string;
  readonly stage: Stage;
  readonly state: string;
  readonly actor: string | null;
  readonly startedAt: number | null;
  readonly seconds: number | null;
  readonly expectedSeconds: number;
  readonly evidence: readonly Evidence[];
}

export interface LogRound {
  readonly id: string;
  readonly title: string;
  readonly handset: string;
  readonly lane: string;
  readonly state: 'open' | 'closed' | 'given-up';
  readonly openedAt: number;
  readonly closedAt: number | null;
  /** All its steps together. */
  readonly seconds: number;
  readonly steps: readonly LogStep[];
}

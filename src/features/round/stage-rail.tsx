import type { RoundStepView } from '@/contracts/round-view';
import { STAGES } from '@/core/steps/step-kind';
import { formatSeconds } from '@/ui/format';
import styles from './round.module.css';

function stageState(steps: readonly RoundStepView[], current: RoundStepView | null) {
  const done = steps.filter((step) => step.state === 'done').length;
  return { done, all: done === steps.length, now: current !== null && steps.includes(current) };
}

/** The stages in one rail; ticks for what is done, never a state mark. */
export function StageRail({ steps, current }: { steps: readonly RoundStepView[]; current: number | null }) {
  const now = current === null ? null : (steps[current] ?? null);
  return (
    <ol className={styles.stages}>
      {STAGES.filter((stage) => steps.some((step) => step.stage === stage)).map((stage) => {
        const own = steps.filter((step) => step.stage === stage);
        const state = stageState(own, now);
        const seconds = own.reduce((sum, step) => sum + (step.workedSeconds ?? 0), 0);
        const word = state.all
          ? `done, ${formatSeconds(seconds)}`
          : state.now
            ? own.length > 1
              ? `${state.done} of ${own.length} done`
              : 'now'
            : '';
        return (
          <li key={stage} aria-current={state.now ? 'step' : undefined} data-now={state.now}>
            <span className={styles.tick} aria-hidden="true">
              {state.all ? '✓' : state.now ? '›' : ''}
            </span>
            <span>
              {stage}
              <small>{word}</small>
            </span>
          </li>
        );
      })}
    </ol>
  );
}

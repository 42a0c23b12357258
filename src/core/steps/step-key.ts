import type { ActionId } from '../planning/actions';

/** Every step there is: what the planner can take, and what stands around every plan. */
export type StepKey =
  | ActionId
  | 'read-facts'
  | 'find-out'
  | 'back-up'
  | 'guard-off'
  | 'protect'
  | 'check'
  | 'second-host'
  | 'carry-over'
  | 'prove-no-root'
  | 'look-around'
  | 'close';

import type { ActionId } from './actions';
import type { GoalId } from './context';
import type { Lane } from './lane';

/* Steps that many lanes share, and what they are for. */

export const ROOT_GOALS: readonly GoalId[] = ['first root', 'root again'];
export const EVERY_ROOT: readonly GoalId[] = [...ROOT_GOALS, 'monthly update'];
export const IMAGE_HERE = [
  'open-installed-package',
  'take-stock',
  'patch',
  'patch-there',
  'bring-patched',
] as const satisfies readonly ActionId[];
export const TARGET_IMAGE_HERE = [
  'open-target-package',
  'take-target-stock',
  'patch-target',
  'patch-target-there',
  'bring-target-patched',
] as const satisfies readonly ActionId[];
/** With it comes the one that carries root. */
export const WHOLE_HERE = [
  'open-installed-package',
  'take-stock',
  'open-target-package',
  'take-whole',
  'patch-target',
  'patch-target-there',
  'bring-target-patched',
] as const satisfies readonly ActionId[];
/** A recovery that shares its partition. */
export const RECOVERY_HERE = [
  'rebuild-recovery',
  'patch-with-recovery',
] as const satisfies readonly ActionId[];
export const UNLOCKING = [
  'unlock-switch',
  'ask-code',
  'download',
  'unlock',
] as const satisfies readonly ActionId[];
export const PROVING = [
  'start',
  'finish-start',
  'start-with-recovery-keys',
  'debugging',
  'prove-root',
  'finish-root-app',
  'merge',
] as const satisfies readonly ActionId[];

/** It brings the wanted build: where that lies there already, it changes nothing. */
export const beforeTheTarget: Lane['decidesAt'] = ({ target }, { handset }) =>
  handset.builds[handset.active] !== target;

import type { Applied } from './action-kit';
import type { ActionId, PlanAction } from './actions';
import type { PlanState } from './context';
import { numbering, wordsOf } from './state-key';

/*
 * What is made on the computer for a step of the handset: only what it needs, and in the whole plan as early as
 * it can be.
 */

/** Steps that need nothing of the handset but the builds on it. */
export const MADE_HERE: readonly ActionId[] = [
  'open-installed-package',
  'open-target-package',
  'open-other-package',
  'take-stock',
  'take-stock-recovery',
  'rebuild-recovery',
  'take-other-stock',
  'take-target-stock',
  'take-whole',
  'patch',
  'patch-target',
  'patch-with-recovery',
  'bring-patched',
  'bring-target-patched',
];

/** Steps of the handset that never need anything made on the computer. */
export const NEED_NOTHING_MADE: ReadonlySet<ActionId> = new Set([
  'start',
  'finish-start',
  'start-with-recovery-keys',
  'bootloader',
  'recovery',
  'download',
  'sideload-mode',
  'merge',
  'cancel-update',
  'other-slot',
  'same-slot',
  'prove-root',
  'finish-root-app',
  'open-root',
  'debugging',
  'auto-update-off',
  'unlock-switch',
  'lock',
  'modules-on',
  'modules-off',
  'modules-seen-off',
  'back-up-image',
  'format-data',
]);

export type Applying = (action: PlanAction, state: PlanState) => Applied;

export interface Made {
  readonly ok: true;
  readonly state: PlanState;
  /** What was made for it, and the state with that. */
  readonly made: readonly PlanAction[];
  readonly before: PlanState;
}
export type MadeFirst = Made | { readonly ok: false; readonly reason: string };

/** The state after these, leaving out what is not possible or makes nothing. */
function after(state: PlanState, actions: readonly PlanAction[], apply: Applying) {
  let now = state;
  const done: PlanAction[] = [];
  for (const action of actions) {
    const tried = apply(action, now);
    if (!tried.ok || tried.state.made === now.made) continue;
    now = tried.state;
    done.push(action);
  }
  return { state: now, done };
}

/** Everything that can be made from here, in an order in which it can. */
function everything(state: PlanState, here: readonly PlanAction[], apply: Applying): readonly PlanAction[] {
  let order: readonly PlanAction[] = [];
  for (let now = state; ;) {
    const round = after(now, here, apply);
    if (round.done.length === 0) return order;
    order = [...order, ...round.done];
    now = round.state;
  }
}

/**
 * An action of the handset, with the least that has to be made on the computer before it.
 * @param here the lane's steps on the computer
 */
export function makeFirst(here: readonly PlanAction[], apply: Applying) {
  const closures = new Map<number, Closure>();
  const numberOf = numbering(wordsOf);
  function closureAt({ handset, made }: PlanState): Closure {
    // what is made is of the builds on the slots, and of the one that is active
    const builds = numberOf(handset.builds) * 2 + (handset.active === 'a' ? 0 : 1);
    const at = numberOf(made) * MANY + builds;
    let closure = closures.get(at);
    if (closure === undefined) {
      const order = everything({ handset, made }, here, apply);
      closure = { order, made: after({ handset, made }, order, apply).state.made };
      closures.set(at, closure);
    }
    return closure;
  }
  return (action: PlanAction, state: PlanState): MadeFirst => {
    const plain = apply(action, state);
    if (plain.ok) return { ...plain, made: [], before: state };
    if (plain.byHandset || NEED_NOTHING_MADE.has(action.id)) return plain;
    const closure = closureAt(state);
    if (closure.order.length === 0) return plain;
    const whole = apply(action, { handset: state.handset, made: closure.made });
    if (!whole.ok) return whole;
    let needed = closure.order;
    for (const one of [...needed].reverse()) {
      const fewer = needed.filter((other) => other !== one);
      const { state: there, done } = after(state, fewer, apply);
      if (apply(action, there).ok) needed = done;
    }
    const before = after(state, needed, apply).state;
    const done = apply(action, before);
    return done.ok ? { ...done, made: needed, before } : done;
  };
}

/** More than there are builds and slots in one search. */
const MANY = 2 ** 20;

/** Everything that can be made with what is made already. */
interface Closure {
  readonly order: readonly PlanAction[];
  readonly made: readonly string[];
}

const added = (before: PlanState, { made }: PlanState) =>
  made.filter((what) => !before.made.includes(what)).join('|');

/** The same steps, with what is made on the computer as early as it makes the same. */
export function makeEarly(
  from: PlanState,
  order: readonly PlanAction[],
  apply: Applying,
): readonly PlanAction[] {
  let done: readonly PlanAction[] = [];
  let now = from;
  for (const action of order) {
    const here = apply(action, now);
    if (!here.ok) continue;
    const at = MADE_HERE.includes(action.id)
      ? earliest(from, done, { action, makes: added(now, here.state) }, apply)
      : done.length;
    done = [...done.slice(0, at), action, ...done.slice(at)];
    now = here.state;
  }
  return done;
}

/** The first place among the steps so far at which it makes the same. */
function earliest(
  from: PlanState,
  done: readonly PlanAction[],
  { action, makes }: { readonly action: PlanAction; readonly makes: string },
  apply: Applying,
): number {
  let now = from;
  for (const [at, step] of done.entries()) {
    const there = apply(action, now);
    // what is on the computer comes in the order in which it was wanted
    if (there.ok && added(now, there.state) === makes && !MADE_HERE.includes(step.id)) return at;
    const next = apply(step, now);
    if (next.ok) now = next.state;
  }
  return done.length;
}

import { onSlot } from '../handset/builds';
import { operate } from '../handset/operate';
import type { HandsetOperation } from '../handset/operate';
import type { HandsetState } from '../handset/state';
import { otherSlot } from '../handset/state';
import type { Beta } from '../beta';
import { counted, mean, quantile } from '../beta';
import type { PlanContext } from './context';
import { patchedImage } from './context';
import { isUpdate } from './goals';
import type { LanePlan, PlannedStep } from './plan-round';
import { planRound } from './plan-round';

/* The usual slips, played through: what each would cost from where it happens (docs/method.md, "Slips"). */

export type SlipId = 'early restart' | 'wrong slot' | 'cable lost';

interface Slip {
  readonly title: string;
  /** A stated prior: so often in so many chances. */
  readonly prior: Beta;
  /** The handset after the slip at this step; null where it can't happen here. */
  readonly at: (
    context: PlanContext,
    before: HandsetState,
    step: PlannedStep,
    next: PlannedStep | undefined,
  ) => HandsetState | null;
}

function played(
  context: PlanContext,
  from: HandsetState,
  operations: readonly HandsetOperation[],
): HandsetState | null {
  let now = from;
  for (const operation of operations) {
    const result = operate(context.profile, now, operation);
    if (!result.ok) return null;
    now = result.state;
  }
  return now;
}

export const SLIPS: Readonly<Record<SlipId, Slip>> = {
  'early restart': {
    title: 'the offered restart is accepted too early',
    prior: { yes: 1, no: 11 },
    at: (context, _before, step, next) =>
      step.after.update !== null &&
      next?.action !== 'start' &&
      (step.action === 'take-update' || step.action === 'take-full-update')
        ? played(context, step.after, [{ do: 'restart' }, { do: 'finish-start' }])
        : null,
  },
  'wrong slot': {
    title: 'the image is written to the wrong slot',
    prior: { yes: 1, no: 39 },
    at: (context, before, step) => {
      if (step.action !== 'write-root' || context.profile.slotCount === 1) return null;
      const partition = onSlot(context.profile.rootPartition, otherSlot(before.active));
      return played(context, before, [
        { do: 'write', partition, image: patchedImage(context, before.builds[before.active]) },
        { do: 'restart' },
        { do: 'finish-start' },
      ]);
    },
  },
  'cable lost': {
    title: 'the cable comes loose or the battery dies during a write',
    prior: { yes: 1, no: 59 },
    at: (_context, before, step) => {
      if (!step.writes || step.who !== 'link') return null;
      const cut = Object.keys(step.after.images).filter(
        (name) => step.after.images[name]!.sha256 !== before.images[name]?.sha256,
      );
      const [name] = cut;
      if (name === undefined) return null;
      // written alone, a bootloader that is cut short may be the end; in a whole build it is written again
      if (cut.length === 1 && name.startsWith('bootloader_'))
        return { ...before, mode: 'dead', running: null, lastStart: 'its bootloader was cut short' };
      return {
        ...before,
        images: {
          ...before.images,
          [name]: { ...before.images[name]!, broken: 'its write was cut short' },
        },
      };
    },
  },
};

export interface PlayedSlip {
  readonly slip: SlipId;
  readonly title: string;
  /** Number of the step it happens at, from 1. */
  readonly step: number;
  readonly rate: number;
  /** What it costs from there, beyond what was left of the plan; minutes. Null where no way on was found. */
  readonly minutes: number | null;
  readonly sentence: string;
}

export interface PlanRisk {
  /** Minutes that slips cost a round on average, and what eight of ten rounds of such rates lie between. */
  readonly minutes: number;
  readonly between: readonly [number, number];
  readonly slips: readonly PlayedSlip[];
}

/** What was counted of each slip in the person's own log. */
export type SlipCounts = Readonly<
  Partial<Record<SlipId, { readonly slips: number; readonly chances: number }>>
>;

/** Where no way on is found: a day of work. */
const STUCK_MINUTES = 480;

/** Plays each slip at each step of a plan where it can happen. */
export function riskOf(context: PlanContext, plan: LanePlan, counts: SlipCounts = {}): PlanRisk {
  const slips: PlayedSlip[] = [];
  let [minutes, least, most] = [0, 0, 0];
  plan.steps.forEach((step, i) => {
    const before = i === 0 ? context.start : plan.steps[i - 1]!.after;
    for (const id of Object.keys(SLIPS) as SlipId[]) {
      const { at, prior, title } = SLIPS[id];
      const after = at(context, before, step, plan.steps[i + 1]);
      if (!after) continue;
      const seen = counts[id];
      const beta = seen ? counted(prior, seen.slips, seen.chances) : prior;
      const left = plan.steps.slice(i + 1).reduce((sum, one) => sum + one.minutes[0], 0);
      const on = wayOn(context, after, step.made);
      const cost = on === null ? STUCK_MINUTES : Math.max(0, on.minutes - left);
      minutes += mean(beta) * cost;
      least += quantile(beta, 0.1) * cost;
      most += quantile(beta, 0.9) * cost;
      slips.push({
        slip: id,
        title,
        step: i + 1,
        rate: mean(beta),
        minutes: on === null ? null : cost,
        sentence: on === null ? 'No way on from there.' : `Then: ${on.lane.toLowerCase()}.`,
      });
    }
  });
  return { minutes, between: [least, most], slips };
}

/**
 * The best way to the same goal from a slip; after an early restart that is "root again", on the build that
 * runs then.
 */
function wayOn(
  context: PlanContext,
  from: HandsetState,
  made: readonly string[],
): { readonly minutes: number; readonly lane: string } | null {
  const runs = from.running?.build ?? from.builds[from.active];
  const updated = isUpdate(context.goal) && runs === context.target;
  const goal = updated && from.mode === 'system' ? ('root again' as const) : context.goal;
  const { plans } = planRound({ ...context, goal, start: from, kept: made });
  const [best] = plans;
  return best ? { minutes: best.figures.minutes[0], lane: best.lane.title } : null;
}

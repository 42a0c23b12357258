import 'server-only';
import type { LanePlanView, WaysView } from '@/contracts/plan-view';
import type { StepView } from '@/contracts/step-view';
import { EternoError } from '@/core/errors';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { GoalId, PlanContext } from '@/core/planning/context';
import { GOAL_WORDS } from '@/core/planning/goals';
import { lintPlan } from '@/core/planning/lint';
import type { LanePlan, RoundPlans } from '@/core/planning/plan-round';
import { planRound } from '@/core/planning/plan-round';
import type { SlipCounts } from '@/core/planning/slips';
import { riskOf } from '@/core/planning/slips';
import type { NewStep } from '@/core/rounds/round';
import { expandPlan } from '@/core/rounds/expand-plan';
import { workedOn } from '@/core/rounds/worked';
import { STEP_KINDS } from '@/core/steps/step-table';
import { listRounds, stepsOf } from '../repositories/round-repository';
import type { Bench } from '@/core/bench/bench';
import { keptInstalls } from '@/core/bench/install-package';
import type { KnownHandset } from './bench-reading';
import { needHandset, readBench, readSubject } from './bench-reading';
import { learnt } from './learnt-service';
import type { Assumed, WaysWish } from '@/core/bench/planning-context';
import { contextOf } from '@/core/bench/planning-context';
import { knownBuilds } from '@/core/bench/known-builds';
import { assumptionWords } from '@/core/words/assumptions';
import { stepAbout } from '@/core/steps/step-about';

export interface Planned extends Assumed {
  readonly plans: RoundPlans;
  readonly slips: SlipCounts;
}

/** What a plan is made from, read once. */
interface PlanMatter {
  readonly subject: KnownHandset;
  readonly bench: Bench;
}

const matterOf = async (handsetId: string): Promise<PlanMatter> => ({
  subject: await readSubject(await needHandset(handsetId)),
  bench: await readBench(),
});

async function planWith({ subject, bench }: PlanMatter, wish: WaysWish): Promise<Planned | string> {
  const known = await learnt();
  if (
    wish.target !== null &&
    wish.target !== subject.facts.typed.fingerprint &&
    !knownBuilds(subject, bench).includes(wish.target)
  )
    throw new EternoError('not-found', 'This build is not known for this handset.');
  const assumed = contextOf(subject, bench, wish, known);
  return typeof assumed === 'string'
    ? assumed
    : { ...assumed, plans: planRound(assumed.context), slips: known.slips };
}

/** Plans for a wish from all that is known now. @returns what has to be known first, where something has */
export const planFor = async (handsetId: string, wish: WaysWish): Promise<Planned | string> =>
  planWith(await matterOf(handsetId), wish);

function stepView(
  handset: { readonly name: string },
  { profile, recovery, target, bothSlots = [], unknown = [], install = null }: PlanContext,
  { key, planned }: NewStep,
): StepView {
  const { title } = STEP_KINDS[key].text(
    stepAbout(
      handset.name,
      { ...profile, rootOnBoth: bothSlots.includes(planned.build), install: install?.name ?? null },
      recovery?.name ?? null,
      target,
      planned,
      { unknown },
    ),
  );
  return { ...planned, key, title, state: 'waiting' };
}

function planView(
  handset: { readonly name: string },
  { context, slips }: Planned,
  plan: LanePlan,
): LanePlanView {
  return {
    ...plan,
    notes: lintPlan(context, plan),
    risk: riskOf(context, plan, slips),
    steps: expandPlan(context, plan).map((step) => stepView(handset, context, step)),
  };
}

const closedOf = async (handsetId: string, goal: string) =>
  (await listRounds(handsetId)).filter(
    (one) => one.state === 'closed' && one.closedAt !== null && one.kind === goal,
  );

/** The newest round of a kind, where the person would not do it the same way again. */
export async function lastBad(handsetId: string, goal: string): Promise<WaysView['notAgain']> {
  const [newest] = await closedOf(handsetId, goal);
  return newest?.again === 'no'
    ? { id: newest.id, lane: newest.lane, closedAt: newest.closedAt!, note: newest.againNote ?? '' }
    : null;
}

/** The last round of a kind that reached its goal and would be done so again, and how it went. */
export async function lastGood(handsetId: string, goal: string) {
  const round = (await closedOf(handsetId, goal)).find((one) => one.again !== 'no' && one.reached !== 'no');
  if (!round || round.closedAt === null) return null;
  const steps = await stepsOf([round.id]);
  return {
    id: round.id,
    lane: round.lane,
    closedAt: round.closedAt,
    minutes: workedOn(steps) / 60,
    keys: steps.map((step) => step.key),
    target: round.target,
  };
}

/** Every lane to a goal, compared, each proved by playing it. @throws {EternoError} `not-found` */
export async function waysOf(handsetId: string, wish: WaysWish): Promise<WaysView> {
  const matter = await matterOf(handsetId);
  const { subject, bench } = matter;
  const { handset } = subject;
  const goals = (Object.keys(GOAL_WORDS) as GoalId[]).map((id) => ({ id, words: GOAL_WORDS[id] }));
  const planned = await planWith(matter, wish);
  const installed = subject.facts.typed.fingerprint;
  const known = knownBuilds(subject, bench);
  const builds = [...new Set([...known, ...(installed === null ? [] : [installed])])].map((fingerprint) => ({
    fingerprint,
    buildId: splitFingerprint(fingerprint)?.id ?? fingerprint,
  }));
  const about = {
    handset: { id: handset.id, name: handset.name, build: subject.facts.typed.buildId },
    goals,
    builds,
    installs: keptInstalls(bench).map(({ fileName, report }) => ({
      sha256: report.kept.sha256,
      name: fileName,
    })),
  };
  const none = {
    ...about,
    limits: wish.limits,
    kit: null,
    install: null,
    target: null,
    plans: [],
    others: [],
    pick: null,
    why: '',
    assumptions: [],
    last: null,
    notAgain: null,
  };
  if (typeof planned === 'string') return { ...none, goal: wish.goal ?? 'first root', missing: planned };
  const { context, assumptions, plans: found } = planned;
  const last = await lastGood(handsetId, context.goal);
  return {
    ...about,
    goal: context.goal,
    limits: context.limits,
    kit: context.kit,
    install: context.install?.sha256 ?? null,
    target: context.target,
    plans: found.plans.map((plan) => planView(handset, planned, plan)),
    others: found.others,
    pick: found.pick,
    why: found.why,
    assumptions: assumptions.map(assumptionWords),
    notAgain: await lastBad(handsetId, context.goal),
    last: last && {
      id: last.id,
      lane: last.lane,
      closedAt: last.closedAt,
      minutes: last.minutes,
      keys: last.keys,
    },
    missing: null,
  };
}

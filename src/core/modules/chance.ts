import type { Beta } from '../beta';
import { mean, quantile } from '../beta';
import type { ModuleScope } from './read-module';
import type { StepSize } from './step-size';

/*
 * The chance that a module breaks the start of a build: a Beta distribution from a stated prior and what was
 * seen (docs/method.md, "Modules").
 */

export type ModuleOutcome = 'worked' | 'looped' | 'misbehaved';

export interface ModuleTrial {
  readonly module: string;
  readonly version: string | null;
  /** Fingerprint of the build it ran on. */
  readonly build: string;
  readonly outcome: ModuleOutcome;
}

/** So often in so many monthly updates; stated, and the same for everybody until something is seen. */
export const SCOPE_PRIORS: Readonly<Record<ModuleScope, Beta>> = {
  kernel: { yes: 2, no: 8 },
  'framework hook': { yes: 1, no: 9 },
  overlay: { yes: 0.5, no: 9.5 },
  settings: { yes: 0.25, no: 9.75 },
  'host list': { yes: 0.1, no: 9.9 },
  looks: { yes: 0.1, no: 9.9 },
};
/** A module whose file nobody has read. */
const UNREAD: Beta = { yes: 0.7, no: 9.3 };
const SIZE_FACTORS: Readonly<Record<StepSize, number>> = { same: 0.3, monthly: 1, quarterly: 2, major: 4 };
const KERNEL_FACTORS: Readonly<Record<ModuleScope, number>> = {
  kernel: 3,
  'framework hook': 1.2,
  overlay: 1,
  settings: 1,
  'host list': 1,
  looks: 1,
};
/** How much one outcome counts: on the very build, on another build, of another module of the same scope. */
const WEIGHTS = { same: 20, other: 1, scope: 0.2 } as const;

export interface ChanceInput {
  readonly module: string;
  readonly version: string | null;
  /** The riskiest that it touches; null where its file was never read. */
  readonly scope: ModuleScope | null;
  readonly build: string;
  readonly size: StepSize;
  /** Null where the two stock images were not compared. */
  readonly kernelChanged: boolean | null;
  readonly trials: readonly ModuleTrial[];
  readonly scopeOf: (module: string) => ModuleScope | null;
}

export interface Chance {
  readonly mean: number;
  /** Four of five such modules lie between. */
  readonly between: readonly [number, number];
  readonly reasons: readonly string[];
  /** It is known to loop on this very build. */
  readonly loopedHere: boolean;
}

const bad = ({ outcome }: ModuleTrial) => outcome === 'looped';
const builds = (trials: readonly ModuleTrial[]) => new Set(trials.map(({ build }) => build)).size;
const onBuilds = (n: number) => `on ${n} ${n === 1 ? 'build' : 'builds'}`;

export function chanceOf(input: ChanceInput): Chance {
  const { module, version, scope, build, size, kernelChanged, trials, scopeOf } = input;
  const prior = scope === null ? UNREAD : SCOPE_PRIORS[scope];
  const factor = SIZE_FACTORS[size] * (kernelChanged && scope !== null ? KERNEL_FACTORS[scope] : 1);
  const total = prior.yes + prior.no;
  const yes = Math.min(prior.yes * factor, total * 0.8);
  // what another version did says less of this one
  const own = trials.filter((trial) => trial.module === module);
  const weightOf = (trial: ModuleTrial) =>
    trial.version === null || version === null || trial.version === version ? 1 : 0.5;
  const alike =
    scope === null
      ? []
      : trials.filter((trial) => trial.module !== module && scopeOf(trial.module) === scope);
  let beta: Beta = { yes, no: total - yes };
  const count = (trial: ModuleTrial, weight: number) => {
    const share = weight * (trial.outcome === 'misbehaved' ? 0.5 : 1);
    beta = bad(trial) ? { ...beta, yes: beta.yes + share } : { ...beta, no: beta.no + share };
  };
  for (const trial of own)
    count(trial, weightOf(trial) * (trial.build === build ? WEIGHTS.same : WEIGHTS.other));
  for (const trial of alike) count(trial, WEIGHTS.scope);
  const loopedHere = own.some((trial) => trial.build === build && bad(trial) && weightOf(trial) === 1);
  return {
    mean: mean(beta),
    between: [quantile(beta, 0.1), quantile(beta, 0.9)],
    reasons: [
      ...reasonsOfPrior(input),
      ...reasonsOfTrials(own, build, loopedHere),
      ...reasonsOfAlike(own, alike),
    ],
    loopedHere,
  };
}

const reasonsOfPrior = ({ scope, size, kernelChanged }: ChanceInput): string[] => [
  scope === null ? 'its file was never read, so what it touches is not known' : `it touches: ${scope}`,
  size === 'same' ? 'the same month' : `a ${size} step${kernelChanged ? ' with another kernel' : ''}`,
];

function reasonsOfTrials(own: readonly ModuleTrial[], build: string, loopedHere: boolean): string[] {
  const here = own.filter((trial) => trial.build === build);
  const elsewhere = own.filter((trial) => trial.build !== build);
  const worked = builds(elsewhere.filter(({ outcome }) => outcome === 'worked'));
  const looped = builds(elsewhere.filter(bad));
  const reasons: string[] = [];
  if (loopedHere) reasons.push('this version looped on this very build');
  else if (here.some(bad)) reasons.push('an older version looped on this very build');
  else if (here.length > 0) reasons.push('it worked on this very build');
  if (worked > 0) reasons.push(`it worked ${onBuilds(worked)} before`);
  if (looped > 0) reasons.push(`it looped ${onBuilds(looped)} before`);
  return reasons;
}

const reasonsOfAlike = (own: readonly ModuleTrial[], alike: readonly ModuleTrial[]): string[] => [
  ...(alike.some(bad) ? [`others of its kind looped ${onBuilds(builds(alike.filter(bad)))}`] : []),
  ...(own.length === 0 ? ['it was never tried here'] : []),
];

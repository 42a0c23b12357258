import { EternoError } from '../errors';
import type { Kit, KitCondition, KitStep, OptionValue } from '../kits/kit';
import { optionOf, takesValue } from '../kits/kit';
import type { StockFacts } from './stock-facts';

/* Which steps of a kit run on a stock image, with what the person chose. */

export type OptionValues = Readonly<Record<string, OptionValue>>;

export interface RunningStep {
  readonly step: KitStep;
  /** In the kit, counted from 1. */
  readonly number: number;
}
export interface StepsThatRun {
  readonly steps: readonly RunningStep[];
  /** Steps that were skipped, and why. */
  readonly notes: readonly string[];
}

/** Of values that were chosen for another version of the kit those that this one takes. */
export const optionsThatFit = (kit: Pick<Kit, 'options'>, chosen: OptionValues): OptionValues =>
  Object.fromEntries(
    Object.entries(chosen).filter(([name, value]) => {
      const option = optionOf(kit, name);
      return option !== null && takesValue(option, value);
    }),
  );

/**
 * What the person chose, the kit's own choice where they chose nothing.
 * @throws {EternoError} `usage` for an option that the kit has not got, or a value that it does not take
 */
export function optionsOf(kit: Pick<Kit, 'id' | 'options'>, chosen: OptionValues = {}): OptionValues {
  for (const [name, value] of Object.entries(chosen)) {
    const option = optionOf(kit, name);
    if (option === null) throw new EternoError('usage', `${kit.id} has no option "${name}"`);
    if (!takesValue(option, value))
      throw new EternoError(
        'usage',
        `the option "${name}" takes ${option.kind === 'bool' ? 'true or false' : option.choices.join(', ')}`,
      );
  }
  return {
    ...Object.fromEntries(Object.entries(kit.options).map(([name, option]) => [name, option.default])),
    ...chosen,
  };
}

const notKnown = (step: number, what: string) =>
  new EternoError('does-not-fit', `step ${step} depends on ${what}, and the image does not say it`, {
    details: { step },
  });

/** `6.1` begins 6.1.57 and not 6.12. */
const beginsVersion = (version: string, prefix: string) =>
  version.startsWith(prefix) && !(/\d$/.test(prefix) && /^\d/.test(version.slice(prefix.length)));

const inRange = (value: number, [from, to]: readonly [number, number]) => value >= from && value <= to;

/** What of the stock image a condition asks for. @throws {EternoError} `does-not-fit` where it does not say it */
function asked<T>(fact: T | null, step: number, what: string): T {
  if (fact === null) throw notKnown(step, what);
  return fact;
}

/** Null where the condition holds, else what is there instead. @throws {EternoError} `does-not-fit` */
function missed(
  condition: KitCondition,
  facts: StockFacts,
  options: OptionValues,
  step: number,
): string | null {
  const unless = (holds: boolean, there: string) => (holds ? null : there);
  switch (condition.of) {
    case 'sdk': {
      const sdk = asked(facts.sdk, step, 'the platform level (sdk)');
      return unless(inRange(sdk, condition.range), `the platform level is ${sdk}`);
    }
    case 'header':
      return unless(inRange(facts.header, condition.range), `the header version is ${facts.header}`);
    case 'architecture': {
      const own = asked(facts.architecture, step, 'the architecture');
      return unless(condition.oneOf.includes(own), `the architecture is ${own}`);
    }
    case 'partition':
      return unless(condition.oneOf.includes(facts.partition), `it is an image of ${facts.partition}`);
    case 'kernel': {
      if (facts.kernel === null) return 'the image has no kernel';
      const version = asked(facts.kernel.version, step, 'the version of the kernel');
      return unless(beginsVersion(version, condition.prefix), `the kernel is ${version}`);
    }
    case 'option': {
      const value = options[condition.name]!;
      return unless(value === condition.value, `the option "${condition.name}" is ${String(value)}`);
    }
  }
}

/** @throws {EternoError} `does-not-fit`, naming a fact that a step depends on and the image does not state */
export function stepsThatRun(
  kit: Pick<Kit, 'steps'>,
  facts: StockFacts,
  options: OptionValues,
): StepsThatRun {
  const steps: RunningStep[] = [];
  const notes: string[] = [];
  for (const [i, step] of kit.steps.entries()) {
    const why = step.when.reduce<string | null>(
      (before, condition) => before ?? missed(condition, facts, options, i + 1),
      null,
    );
    if (why === null) steps.push({ step, number: i + 1 });
    else notes.push(`step ${i + 1} (${step.do}) is skipped: ${why}`);
  }
  return { steps, notes };
}

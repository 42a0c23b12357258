import type { What } from '../words/observe';
import type { Differs, Met, Witness } from './expectation';
import type { Sight } from './sights';

/* What was understood, and how a value that was seen is held against the expected one. */

export interface Seen<S extends Sight = Sight> {
  readonly sight: S;
  readonly line: number;
}
export type Of<K extends Sight['kind']> = Extract<Sight, { kind: K }>;

/** Everything that was understood, in the order of the lines. */
export class Sights {
  constructor(readonly all: readonly Seen[]) {}
  of<K extends Sight['kind']>(...kinds: readonly K[]): Seen<Of<K>>[] {
    return this.all.filter((one): one is Seen<Of<K>> =>
      (kinds as readonly string[]).includes(one.sight.kind),
    );
  }
  facts(fact: Of<'fact'>['fact'], ...witnesses: readonly Witness[]): Seen<Of<'fact'>>[] {
    return this.of('fact').filter(
      ({ sight }) => sight.fact === fact && (witnesses.length === 0 || witnesses.includes(sight.witness)),
    );
  }
}

/** What is met and what differs, by what it is about. */
export interface Found {
  readonly met: Met[];
  readonly differs: Differs[];
}
export const NOTHING: Found = { met: [], differs: [] };
export const both = (parts: readonly Found[]): Found => ({
  met: parts.flatMap(({ met }) => met),
  differs: parts.flatMap(({ differs }) => differs),
});
export const held = (
  what: What,
  seen: string,
  line: number,
  expected: string | undefined,
  same: boolean,
): Found =>
  same || expected === undefined
    ? { met: [{ what, seen, line }], differs: [] }
    : { met: [], differs: [{ what, expected, seen, line }] };

/** The last value of a fact, against what is expected of it. */
export function lastFact(
  what: What,
  values: readonly { readonly value: string; readonly line: number }[],
  expected: string | undefined,
): Found {
  const last = values.at(-1);
  return last ? held(what, last.value, last.line, expected, last.value === expected) : NOTHING;
}
export const valuesOf = (facts: readonly Seen<Of<'fact'>>[]) =>
  facts.map(({ sight, line }) => ({ value: sight.value, line }));

export const splitName = (name: string): { partition: string; slot: 'a' | 'b' | null } => {
  const base = name
    .split(/[\\/]/)
    .at(-1)!
    .replace(/\.(?:img|bin)$/i, '')
    .toLowerCase();
  const match = /^(.+)_([ab])$/.exec(base);
  return match ? { partition: match[1]!, slot: match[2] as 'a' | 'b' } : { partition: base, slot: null };
};

import type { HandsetState } from '../handset/state';
import type { PlanState } from './context';

/*
 * When two states of a plan are one. Most states share most of their parts, so each part is put into words once
 * and is a number from then on.
 */

/** The words of a part. */
export const wordsOf = (part: object): string => JSON.stringify(part);
/** What lies there, and what of it a later step can tell: its recovery, its flags, whether it can be read. */
const looksOf = (images: HandsetState['images']): string =>
  Object.entries(images)
    .map(([name, { broken, sha256, recovery, flags }]) =>
      [name, broken === null ? sha256 : 'broken', recovery?.name, flags].join(':'),
    )
    .join(' ');

const modulesOf = ({ on, ids, off = [] }: HandsetState['modules']) => `${on}|${ids.join()}|${off.join()}`;

/** A number for each that says something else; what was seen once is known by itself. */
export function numbering<T extends object>(words: (one: T) => string): (one: T) => number {
  const numbers = new Map<string, number>();
  const seen = new Map<T, number>();
  return (one) => {
    const before = seen.get(one);
    if (before !== undefined) return before;
    const text = words(one);
    let number = numbers.get(text);
    if (number === undefined) numbers.set(text, (number = numbers.size));
    seen.set(one, number);
    return number;
  };
}

/**
 * Everything of a state that decides what can still be done: no clock, battery or words. One function a search,
 * because it remembers every part that it has seen.
 * @param asks whether the lane asks if anything was written since the last start
 */
export function stateKeys(asks: boolean): (state: PlanState) => string {
  const parts = numbering(wordsOf);
  const images = numbering(looksOf);
  const modulesThere = numbering(modulesOf);
  const part = (one: object | null): number => (one === null ? -1 : parts(one));
  return ({ handset, made }) => {
    const { slots, builds, running, update, floors, data, modules, settings, fromMemory } = handset;
    const plain = `${handset.mode}|${handset.locked}|${handset.active}|${asks && handset.writtenSinceStart === true}|${handset.keepsRecovery === true}|${handset.insideRoot}`;
    const asked = `${handset.rootRequest}|${handset.unlockSwitch}|${handset.snapshot}|${handset.rootApp}`;
    const lies = `${images(handset.images)}|${part(slots)}|${part(builds)}|${part(running)}|${part(update)}`;
    return `${plain}|${asked}|${lies}|${part(fromMemory)}|${part(floors)}|${part(data)}|${modulesThere(modules)}|${part(settings)}|${part(made)}`;
  };
}

/** Two parts that say the same. */
const isAlike = <T extends object>(a: T | null, b: T | null, words: (part: T) => string = wordsOf) =>
  a === b || (a !== null && b !== null && words(a) === words(b));

/** Nothing that lasts, and nothing that was asked, differs: a step like that decides nothing. */
export const leavesAsItWas = ({ handset: a }: PlanState, { handset: b }: PlanState): boolean =>
  a.active === b.active &&
  a.locked === b.locked &&
  a.rootRequest === b.rootRequest &&
  a.running?.rooted === b.running?.rooted &&
  a.fromMemory === b.fromMemory &&
  a.insideRoot === b.insideRoot &&
  isAlike(a.images, b.images, looksOf) &&
  isAlike(a.data, b.data) &&
  isAlike(a.builds, b.builds) &&
  isAlike(a.slots, b.slots) &&
  isAlike(a.update, b.update);

/* Nothing private leaves in what is made to be shared (docs/method.md, "Private values"). */

/** Shorter values would blank half of every text. */
const SHORTEST = 4;
export const BLANK = '[private]';

/** Every place of every private value taken out of a text, in any case and also where the value is broken up by spaces or line ends. */
export function blankPrivate(text: string, values: readonly string[]): string {
  const long = values.map((value) => value.trim()).filter((value) => value.length >= SHORTEST);
  // the longest first: one value may be a part of another
  return [...new Set(long)].sort((a, b) => b.length - a.length).reduce((rest, value) => rest.replace(patternOf(value), BLANK), text);
}

function patternOf(value: string): RegExp {
  // spaces of its own stand for any: asked for one by one they could be found in too many ways
  const escaped = [...value.replace(/\s+/gu, '')].map((character) => character.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&'));
  return new RegExp(escaped.join('\\s*'), 'giu');
}

/* Nothing private leaves in what is made to be shared (docs/method.md, "Private values"). */

/**
 * Shorter values are blanked where they stand alone: anywhere else they would take half of every text along.
 */
const SHORTEST = 4;
export const BLANK = '[private]';

/**
 * Every place of every private value taken out of a text, in any case and also where the value is broken up
 * by spaces or line ends.
 */
export function blankPrivate(text: string, values: readonly string[]): string {
  const told = values.map((value) => value.trim()).filter((value) => value !== '');
  // the longest first: one value may be a part of another
  return [...new Set(told)]
    .sort((a, b) => b.length - a.length)
    .reduce((rest, value) => rest.replace(patternOf(value), BLANK), text);
}

function patternOf(value: string): RegExp {
  // spaces of its own stand for any: asked for one by one they could be found in too many ways
  const escaped = [...value.replace(/\s+/gu, '')].map((character) =>
    character.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&'),
  );
  if (value.length < SHORTEST)
    return new RegExp(`(?<![\\p{L}\\p{N}])${escaped.join('')}(?![\\p{L}\\p{N}])`, 'giu');
  return new RegExp(escaped.join('\\s*'), 'giu');
}

/**
 * The same in every text of a value of lists and objects, before anything writes it down: escaped, a private
 * value would not be found any more. A text that is JSON itself is looked through as what it stands for.
 */
export function blankIn<T>(value: T, values: readonly string[]): T {
  if (values.length === 0) return value;
  return mapTexts(value, (text) => blankText(text, values)) as T;
}

function mapTexts(value: unknown, change: (text: string) => string): unknown {
  if (typeof value === 'string') return change(value);
  if (Array.isArray(value)) return value.map((one) => mapTexts(one, change));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, mapTexts(one, change)]));
}

function blankText(text: string, values: readonly string[]): string {
  if (!/^[[{]/.test(text)) return blankPrivate(text, values);
  try {
    const inside: unknown = JSON.parse(text);
    const blanked = JSON.stringify(mapTexts(inside, (one) => blankText(one, values)));
    return blanked === JSON.stringify(inside) ? blankPrivate(text, values) : blanked;
  } catch {
    // it only begins like JSON
    return blankPrivate(text, values);
  }
}

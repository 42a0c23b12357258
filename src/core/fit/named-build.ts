/* Which build a file's name speaks of: names are copied and kept, content is what counts. */

/** Shorter ones look like any word. */
const SHORTEST_ID = 8;

const shapeOf = (buildId: string) =>
  buildId
    .split('')
    .map((sign) => (/\d/.test(sign) ? '\\d' : /[A-Za-z]/.test(sign) ? '[A-Za-z]' : `[${sign}]`))
    .join('');

/**
 * The build number that a name speaks of, where it is another than the content's: something of the very shape of the
 * content's own build number, such as `HC1.261005.001` beside `HC1.260905.007`.
 * @returns null where it names none, or the content's own beside others
 */
export function otherBuildNamed(name: string, buildId: string): string | null {
  if (buildId.length < SHORTEST_ID || !/^[\w.\-+ ]+$/.test(buildId) || !/\d/.test(buildId)) return null;
  const alike = new RegExp(`(?<![A-Za-z0-9])${shapeOf(buildId)}(?![A-Za-z0-9])`, 'gu');
  const named = [...name.matchAll(alike)].map(([found]) => found);
  return named.some((one) => one.toLowerCase() === buildId.toLowerCase()) ? null : (named[0] ?? null);
}

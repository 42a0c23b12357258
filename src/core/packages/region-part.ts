import { splitFingerprint } from '../formats/facts/parse-facts';
import type { RegionFound } from '../words/region';
import type { RegionChoice, SetHistory, SetManifest, SetPart } from './set-manifest';
import { isRegion } from './set-roles';

/*
 * Of a firmware set one region part is written: the one that keeps what is on the handset, or the one that erases it
 * (docs/method.md, "Firmware sets").
 */

/** Whether region and build line stay, by the installed build and the set's; null where either is not known. */
export function setHistory(installed: string | null, build: string | null): SetHistory {
  const [own, its] = [installed, build].map((one) => (one === null ? null : splitFingerprint(one)));
  if (!own || !its) return null;
  return { sameRegion: own.product === its.product, sameLine: own.release === its.release };
}

/** The region parts of a set, each with what it does and whether it is advised. */
export function regionChoice(parts: readonly SetPart[], history: SetHistory): RegionChoice[] {
  const keeps = history !== null && history.sameRegion && history.sameLine;
  return parts
    .filter(({ role }) => isRegion(role))
    .map(({ file, role }) => {
      const wipes = role === 'region-wipe';
      return { file, wipes, advised: wipes ? history !== null && !keeps : keeps, why: whyOf(wipes, history) };
    });
}

function whyOf(wipes: boolean, history: SetHistory): string {
  const does = wipes
    ? 'It erases everything that is kept on the handset.'
    : 'It keeps what is on the handset.';
  if (history === null)
    return `${does} Whether it fits depends on the region and the build line that are installed.`;
  if (history.sameRegion && history.sameLine)
    return wipes ? `${does} Nothing asks for that here.` : `${does} Region and build line stay the same.`;
  const changes = history.sameRegion ? 'The build line changes' : 'The region changes';
  return wipes
    ? `${does} ${changes}, and what was kept would not fit.`
    : `${does} ${changes}: what is kept may not start with it.`;
}

/**
 * Whether the region part that goes along does what the step does, and data that is kept still fits.
 * @returns null in place of a verdict where nobody knows whether it fits
 */
export function regionFound(
  set: Pick<SetManifest, 'parts'> | undefined,
  wipes: boolean,
  history: SetHistory,
): readonly [holds: boolean | null, found: RegionFound] {
  const parts = (set?.parts ?? []).filter(({ role }) => isRegion(role));
  const [one, second] = parts;
  if (!one) return [true, { code: 'no-region-part' }];
  if (second) return [false, { code: 'region-both', files: parts.map(({ file }) => file) }];
  const erases = one.role === 'region-wipe';
  if (erases !== wipes) return [false, { code: 'region-other', file: one.file, wipes: erases }];
  if (!wipes && history !== null && !(history.sameRegion && history.sameLine))
    return [false, { code: 'region-moves', what: history.sameRegion ? 'line' : 'region' }];
  return [wipes || history !== null ? true : null, { code: 'region-part', file: one.file, wipes }];
}

const ORDER: readonly SetPart['role'][] = [
  'bootloader',
  'system',
  'modem',
  'region-keep',
  'region-wipe',
  'unknown',
];
/** The parts of a set in the order in which a tool takes them; a data part is never among them. */
export const writtenParts = ({ parts }: Pick<SetManifest, 'parts'>): readonly SetPart[] =>
  parts.filter(({ role }) => role !== 'data').sort((a, b) => ORDER.indexOf(a.role) - ORDER.indexOf(b.role));

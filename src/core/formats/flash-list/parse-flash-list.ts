import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/* A maker's list of what to write where (docs/formats.md, "Flash lists"): XML whose step elements carry partition, filename and MD5. */

export interface FlashStep {
  /** As the list writes it, perhaps with a slot's ending. */
  readonly partition: string;
  readonly filename: string;
  readonly md5: string | null;
  /** Whether the step itself says that it is for both slots. */
  readonly bothSlots: boolean;
}

export interface FlashList {
  readonly steps: readonly FlashStep[];
  /** What its header says of model and build, in the order it stands there. */
  /** Whether the list changes slots on its way, so that a partition named twice is written to both. */
  readonly changesSlot: boolean;
  readonly about: readonly { readonly key: string; readonly value: string }[];
}

const ENTITIES: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&', quot: '"', apos: "'" };
const plain = (text: string) => text.replace(/&(lt|gt|amp|quot|apos);/g, (_, name: string) => ENTITIES[name]!);

/** Attributes of one start tag by their lower-case names. */
function attributesOf(tag: string): Map<string, string> {
  const values = new Map<string, string>();
  for (const match of tag.matchAll(/([A-Za-z_][\w.-]*)\s*=\s*(?:"([^"<]*)"|'([^'<]*)')/g))
    values.set(match[1]!.toLowerCase(), plain(match[2] ?? match[3]!));
  return values;
}

/**
 * Null where the text is no such list.
 * @throws {EternoError} `bad-field` (an MD5 that is none), `unsafe-path` (a file outside the package), `too-large`
 */
export function parseFlashList(text: string, file: string): FlashList | null {
  const steps: FlashStep[] = [];
  const about: { key: string; value: string }[] = [];
  let changesSlot = false;
  for (const match of text
    .replace(/<!--.*?(?:-->|$)/gs, '')
    .matchAll(/<([A-Za-z_][\w.-]*)((?:\s+[A-Za-z_][\w.-]*\s*=\s*(?:"[^"<]*"|'[^'<]*'))*)\s*\/?>/g)) {
    const values = attributesOf(match[2]!);
    const [partition, filename, md5] = [values.get('partition'), values.get('filename'), values.get('md5')];
    if ([...values.values()].some((value) => /^set[-_ ]?active/i.test(value))) changesSlot = true;
    if (partition === undefined || filename === undefined) {
      if (partition === undefined) for (const [key, value] of values) about.push({ key: `${match[1]!.toLowerCase()}.${key}`, value });
      continue;
    }
    if (steps.length >= LIMITS.flashSteps) throw new EternoError('too-large', `a list of more than ${LIMITS.flashSteps} steps`, { file });
    if (md5 !== undefined && !/^[0-9a-fA-F]{32}$/.test(md5)) throw new EternoError('bad-field', `"${md5}" is no MD5`, { file });
    if (/^[/\\]|^[A-Za-z]:|(^|[/\\])\.\.([/\\]|$)|\0/.test(filename))
      throw new EternoError('unsafe-path', `the list names "${filename}", which lies outside the package`, { file });
    steps.push({
      partition,
      filename: filename.replaceAll('\\', '/'),
      md5: md5?.toLowerCase() ?? null,
      bothSlots: /^(all|both)$|^_?a[,| ]*_?b$/i.test(values.get('slot') ?? values.get('slots') ?? ''),
    });
  }
  return steps.length > 0 ? { steps, about, changesSlot } : null;
}

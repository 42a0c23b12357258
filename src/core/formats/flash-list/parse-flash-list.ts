import { EternoError } from '../../errors';
import { LIMITS } from '../../limits';

/*
 * A maker's list of what to write where (docs/formats.md, "Flash lists"): XML whose step elements carry
 * partition, filename and MD5.
 */

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
  /** Whether the list changes slots on its way, so that a partition named twice is written to both. */
  readonly changesSlot: boolean;
  /** What its header says of model and build, in the order it stands there. */
  readonly about: readonly { readonly key: string; readonly value: string }[];
}

/**
 * Tells every start tag of a document in its order.
 * @throws {EternoError} `bad-field` where the text is no well-formed XML, and what `onElement` throws
 */
export type ReadXml = (
  text: string,
  onElement: (name: string, attributes: Readonly<Record<string, string>>) => void,
) => void;

/**
 * A text that names partitions and files side by side means to be a list: broken it is refused, not passed
 * over.
 */
const meansToBe = (text: string) => /\bpartition\s*=/i.test(text) && /\bfilename\s*=/i.test(text);

/**
 * Null where the text is no such list.
 * @throws {EternoError} `bad-field` (no well-formed XML, an MD5 that is none), `unsafe-path` (a file outside
 *   the package), `too-large`
 */
export function parseFlashList(text: string, file: string, readXml: ReadXml): FlashList | null {
  if (!meansToBe(text)) return null;
  const steps: FlashStep[] = [];
  const about: { key: string; value: string }[] = [];
  let changesSlot = false;
  const take = (name: string, attributes: Readonly<Record<string, string>>) => {
    const values = new Map(Object.entries(attributes).map(([key, value]) => [key.toLowerCase(), value]));
    if ([...values.values()].some((value) => /^set[-_ ]?active/i.test(value))) changesSlot = true;
    const [partition, filename] = [values.get('partition'), values.get('filename')];
    if (partition !== undefined && filename !== undefined) {
      if (steps.length >= LIMITS.flashSteps)
        throw new EternoError('too-large', `a list of more than ${LIMITS.flashSteps} steps`, { file });
      steps.push(stepOf(partition, filename, values, file));
    } else if (partition === undefined)
      for (const [key, value] of values) about.push({ key: `${name.toLowerCase()}.${key}`, value });
  };
  try {
    readXml(text.replace(/^\uFEFF/, ''), take);
  } catch (thrown) {
    throw thrown instanceof EternoError ? thrown.inFile(file) : thrown;
  }
  return steps.length > 0 ? { steps, about, changesSlot } : null;
}

function stepOf(
  partition: string,
  filename: string,
  values: ReadonlyMap<string, string>,
  file: string,
): FlashStep {
  const md5 = values.get('md5');
  if (md5 !== undefined && !/^[0-9a-fA-F]{32}$/.test(md5))
    throw new EternoError('bad-field', `"${md5}" is no MD5`, { file });
  if (/^[/\\]|^[A-Za-z]:|(^|[/\\])\.\.([/\\]|$)|\0/.test(filename))
    throw new EternoError('unsafe-path', `the list names "${filename}", which lies outside the package`, {
      file,
    });
  return {
    partition,
    filename: filename.replaceAll('\\', '/'),
    md5: md5?.toLowerCase() ?? null,
    bothSlots: /^(all|both)$|^_?a[,| ]*_?b$/i.test(values.get('slot') ?? values.get('slots') ?? ''),
  };
}

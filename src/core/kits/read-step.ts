import { fromHex } from '../bytes/bytes';
import type { Kit, KitCondition, KitStep, KitVariable } from './kit';
import { optionOf, takesValue, VARIABLE_PATTERN, variablesOf } from './kit';
import type { Json } from './kit-json';
import { checkPath, invalid, isObject, range, text, texts } from './kit-json';

/* One step of a kit, checked before anything is applied. */

type Head = Pick<Kit, 'formatVersion' | 'options'>;

/** Fields and steps that only version 2 knows. */
const FIELDS_OF_2 = ['when', 'match', 'ifFound', 'fragment'] as const;
const STEPS_OF_2: readonly unknown[] = ['replaceBytes', 'kernel'];
/** Steps that may work on several entries at once. */
const WITH_GLOB: readonly unknown[] = ['replaceText', 'remove'];

function refuseNewer(step: Json, where: string): void {
  const newer = STEPS_OF_2.includes(step['do'])
    ? `the step ${JSON.stringify(step['do'])}`
    : FIELDS_OF_2.filter((field) => step[field] !== undefined).map((field) => `"${field}"`)[0];
  if (newer) throw invalid(`${where}: ${newer} needs format version 2, and this kit says version 1`);
}

/** Fields that several steps have, each read when it is asked for. */
function fieldsOf(step: Json, where: string, head: Head) {
  const path = (field: string) => {
    const value = text(step, field, where);
    checkPath(value, where);
    return value;
  };
  const flag = (field: string): boolean => {
    const value = step[field];
    if (value !== undefined && typeof value !== 'boolean')
      throw invalid(`${where}: "${field}" must be true or false`);
    return value ?? false;
  };
  const id = (field: string): number | null => {
    const value = step[field];
    if (value === undefined) return null;
    if (!Number.isSafeInteger(value) || (value as number) < 0 || (value as number) > 0xffffffff)
      throw invalid(`${where}: "${field}" must be a whole number`);
    return value as number;
  };
  const mode = (): number => {
    const value = text(step, 'mode', where);
    if (!/^[0-7]{3,4}$/.test(value))
      throw invalid(`${where}: the mode "${value}" is not 3 or 4 octal digits`);
    return Number.parseInt(value, 8);
  };
  const when = () => ({ when: checkWhen(step['when'], where, head) });
  const inRamdisk = () => ({
    ...when(),
    fragment: step['fragment'] === undefined ? null : text(step, 'fragment', where),
  });
  const owned = () => ({ ...inRamdisk(), uid: id('uid'), gid: id('gid'), replace: flag('replace') });
  const onEntries = () => ({
    ...inRamdisk(),
    path: path('path'),
    ifPresent: flag('ifPresent'),
    glob: step['match'] === 'glob',
  });
  return { path, flag, mode, when, inRamdisk, owned, onEntries };
}

/** @throws {EternoError} `kit-invalid` */
export function checkStep(step: Json, where: string, head: Head): KitStep {
  if (head.formatVersion === 1) refuseNewer(step, where);
  const kind = step['do'];
  if (step['match'] !== undefined && (step['match'] !== 'glob' || !WITH_GLOB.includes(kind)))
    throw invalid(`${where}: "match" may be "glob", on replaceText and remove`);
  const { path, flag, mode, when, inRamdisk, owned, onEntries } = fieldsOf(step, where, head);
  switch (kind) {
    case 'mkdir':
      return { do: kind, path: path('path'), mode: mode(), ...owned() };
    case 'add':
      return { do: kind, path: path('path'), from: text(step, 'from', where), mode: mode(), ...owned() };
    case 'write':
      return {
        do: kind,
        path: path('path'),
        text: checkVariables(text(step, 'text', where, true), where, head),
        mode: mode(),
        ...owned(),
      };
    case 'link':
      return { do: kind, path: path('path'), to: linkTarget(step, where), ...owned() };
    case 'keep':
      return { do: kind, path: path('path'), as: path('as'), ifPresent: flag('ifPresent'), ...inRamdisk() };
    case 'remove':
      return { do: kind, ...onEntries() };
    case 'replaceText':
      return {
        do: kind,
        ...onEntries(),
        find: text(step, 'find', where),
        with: text(step, 'with', where, true),
        ifFound: flag('ifFound'),
      };
    case 'cmdline':
      return { do: kind, append: text(step, 'append', where), ...when() };
    case 'replaceBytes':
      return { do: kind, ...bytesToReplace(step, where), ifFound: flag('ifFound'), ...when() };
    case 'kernel':
      return { do: kind, from: text(step, 'from', where), ...when() };
    default:
      throw invalid(`${where}: unknown step ${JSON.stringify(kind)}`);
  }
}

function linkTarget(step: Json, where: string): string {
  const to = text(step, 'to', where);
  if (to.includes('\0')) throw invalid(`${where}: a link target holds a NUL`);
  return to;
}

function bytesToReplace(step: Json, where: string) {
  const section = step['in'];
  if (section !== 'kernel' && section !== 'dtb') throw invalid(`${where}: "in" must be kernel or dtb`);
  const hex = (field: string): Uint8Array => {
    const value = text(step, field, where);
    if (!/^([0-9a-f]{2})+$/i.test(value)) throw invalid(`${where}: "${field}" must be bytes in hex`);
    return fromHex(value);
  };
  const [find, replacement] = [hex('find'), hex('with')];
  if (find.length !== replacement.length)
    throw invalid(
      `${where}: "with" has ${replacement.length} bytes and "find" ${find.length}; both have to be as long`,
    );
  return { in: section, find, with: replacement } as const;
}

function checkVariables(value: string, where: string, head: Head): string {
  const known: readonly string[] = variablesOf(head);
  for (const [, name] of value.matchAll(VARIABLE_PATTERN)) {
    if (!known.includes(name! as KitVariable))
      throw invalid(`${where}: "{{${name}}}" is no variable a kit can use`);
  }
  return value;
}

function checkWhen(value: unknown, where: string, { options }: Head): KitCondition[] {
  if (value === undefined) return [];
  if (!isObject(value)) throw invalid(`${where}: "when" must be an object`);
  return Object.entries(value).flatMap(([of, wanted]): KitCondition[] => {
    const at = `${where}: "when.${of}"`;
    switch (of) {
      case 'sdk':
      case 'header':
        return [{ of, range: range(wanted, at) }];
      case 'architecture':
      case 'partition':
        return [{ of, oneOf: texts(wanted, at) }];
      case 'kernel':
        if (typeof wanted !== 'string' || wanted === '') throw invalid(`${at} must be a text`);
        return [{ of, prefix: wanted }];
      case 'option':
        if (!isObject(wanted)) throw invalid(`${at} must be an object`);
        return Object.entries(wanted).map(([name, one]) => wantedOption(name, one, at, options));
      default:
        throw invalid(`${where}: unknown condition "${of}"`);
    }
  });
}

function wantedOption(name: string, value: unknown, at: string, options: Kit['options']): KitCondition {
  const option = optionOf({ options }, name);
  if (option === null) throw invalid(`${at}: the kit declares no option "${name}"`);
  if (!takesValue(option, value))
    throw invalid(`${at}: ${JSON.stringify(value)} is no value of the option "${name}"`);
  return { of: 'option', name, value };
}

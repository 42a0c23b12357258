import type { Kit, KitOption } from './kit';
import type { Json } from './kit-json';
import { checkPath, invalid, isObject, KIT_MANIFEST_NAME, range, text, texts, wholeNumber } from './kit-json';

/* What stands on top of a kit's manifest. */

export type KitHead = Omit<Kit, 'steps' | 'files'>;

/** Fields that only version 2 knows: a kit of version 1 that holds one is refused. */
const ONLY_IN_2 = ['options', 'afterFailedStarts', 'companion'] as const;

export const HEAD_FIELDS: { readonly [K in keyof KitHead]: (json: Json) => KitHead[K] } = {
  formatVersion(json) {
    const own = json['formatVersion'] as 1 | 2;
    const newer = own === 1 ? ONLY_IN_2.find((field) => json[field] !== undefined) : undefined;
    if (newer) throw invalid(`"${newer}" needs format version 2, and this kit says version 1`);
    return own;
  },
  id: (json) => text(json, 'id', KIT_MANIFEST_NAME),
  name: (json) => text(json, 'name', KIT_MANIFEST_NAME),
  version: (json) => text(json, 'version', KIT_MANIFEST_NAME),
  versionCode: (json) => wholeNumber(json, 'versionCode', KIT_MANIFEST_NAME),
  channel(json) {
    const value = json['channel'];
    if (value !== 'stable' && value !== 'preview')
      throw invalid(`${KIT_MANIFEST_NAME}: "channel" must be stable or preview`);
    return value;
  },
  supports: (json) => checkSupports(json['supports']),
  marker(json) {
    const value = json['marker'];
    if (value === undefined) return null;
    if (typeof value !== 'string') throw invalid(`${KIT_MANIFEST_NAME}: "marker" must be a path`);
    checkPath(value, 'marker');
    return value;
  },
  options: (json) => checkOptions(json['options']),
  afterFailedStarts: (json) => checkAfterFailedStarts(json['afterFailedStarts']),
  companion: (json) => checkCompanion(json['companion']),
};

function checkSupports(value: unknown): Kit['supports'] {
  if (!isObject(value)) throw invalid('"supports" must be an object');
  const { sdk, partitions, architectures } = value;
  const listed = (list: unknown, name: string) =>
    list === undefined ? null : texts(list, `"supports.${name}"`);
  return {
    sdk: sdk === undefined ? null : range(sdk, '"supports.sdk"'),
    partitions: listed(partitions, 'partitions'),
    architectures: listed(architectures, 'architectures'),
  };
}

function checkOptions(value: unknown): Kit['options'] {
  if (value === undefined) return {};
  if (!isObject(value)) throw invalid('"options" must be an object');
  return Object.fromEntries(
    Object.entries(value).map(([name, option]) => [name, checkOption(option, `option "${name}"`)]),
  );
}

function checkOption(value: unknown, where: string): KitOption {
  if (!isObject(value)) throw invalid(`${where} must be an object`);
  const words = { title: text(value, 'title', where), explain: text(value, 'explain', where) };
  const preset = value['default'];
  switch (value['kind']) {
    case 'bool':
      if (typeof preset !== 'boolean') throw invalid(`${where}: "default" must be true or false`);
      return { ...words, kind: 'bool', default: preset };
    case 'choice': {
      const choices = texts(value['choices'], `${where}: "choices"`);
      if (typeof preset !== 'string' || !choices.includes(preset))
        throw invalid(`${where}: "default" is none of its choices`);
      return { ...words, kind: 'choice', choices, default: preset };
    }
    default:
      throw invalid(`${where}: "kind" must be bool or choice`);
  }
}

function checkAfterFailedStarts(value: unknown): Kit['afterFailedStarts'] {
  if (value === undefined) return null;
  if (!isObject(value)) throw invalid('"afterFailedStarts" must be an object');
  const { does } = value;
  const starts = wholeNumber(value, 'starts', 'afterFailedStarts');
  if (starts < 1) throw invalid('afterFailedStarts: "starts" must be 1 or more');
  if (does !== 'rest-modules' && does !== 'nothing')
    throw invalid('afterFailedStarts: "does" must be rest-modules or nothing');
  return { starts, does };
}

function checkCompanion(value: unknown): Kit['companion'] {
  if (value === undefined) return null;
  if (!isObject(value)) throw invalid('"companion" must be an object');
  return {
    name: text(value, 'name', 'companion'),
    minimumVersionCode: wholeNumber(value, 'minimumVersionCode', 'companion'),
  };
}

import type { ByteSource } from '../bytes/byte-source';
import { EternoError, toEternoError } from '../errors';
import type { ZipArchive } from '../formats/zip/zip-archive';
import { findEntry } from '../formats/zip/zip-archive';
import { LIMITS } from '../limits';
import type { Ports } from '../ports';
import type { Kit, KitStep } from './kit';
import { KIT_VARIABLES, pathsWritten, VARIABLE_PATTERN } from './kit';

export const KIT_MANIFEST_NAME = 'kit.json';
const FORMAT = 'eterno-kit';

export interface ReadKit {
  readonly kit: Kit;
  readonly warnings: readonly string[];
}

type Json = Readonly<Record<string, unknown>>;
const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const invalid = (message: string) => new EternoError('kit-invalid', message);

/** Everything that a kit's reading brings to light. */
export interface ExaminedKit {
  /** Null where there are problems. */
  readonly kit: Kit | null;
  readonly problems: readonly string[];
  readonly warnings: readonly string[];
}

/**
 * Reads a kit from its ZIP and checks all of it before anything is applied.
 * @throws {EternoError} `kit-invalid` with the first problem
 */
export async function readKit(source: ByteSource, ports: Ports): Promise<ReadKit> {
  return accepted(await examineKit(source, ports), source.name);
}

/** @throws {EternoError} `kit-invalid` */
export async function readKitArchive(archive: ZipArchive, file: string): Promise<ReadKit> {
  return accepted(await examineArchive(archive), file);
}

function accepted({ kit, problems, warnings }: ExaminedKit, file: string): ReadKit {
  if (!kit)
    throw new EternoError('kit-invalid', problems[0] ?? 'the kit cannot be read', {
      file,
      details: { problems: problems.length },
    });
  return { kit, warnings };
}

/** Tells all that is wrong with a kit, not only what comes first. @throws {EternoError} `io`, `cancelled` */
export async function examineKit(source: ByteSource, ports: Ports): Promise<ExaminedKit> {
  try {
    return await examineArchive(await ports.openZip(source));
  } catch (thrown) {
    const { code, message } = toEternoError(thrown);
    if (code === 'io' || code === 'cancelled') throw thrown;
    return {
      kit: null,
      problems: [`a kit is a ZIP, and this can't be read as one: ${message}`],
      warnings: [],
    };
  }
}

async function examineArchive(archive: ZipArchive): Promise<ExaminedKit> {
  const problems: string[] = [];
  const attempt = async <T>(work: () => T | Promise<T>): Promise<T | null> => {
    try {
      return await work();
    } catch (thrown) {
      problems.push(toEternoError(thrown).message);
      return null;
    }
  };
  const json = await attempt(async () => {
    const manifest = findEntry(archive, KIT_MANIFEST_NAME);
    if (!manifest) throw invalid(`the kit has no ${KIT_MANIFEST_NAME}`);
    return parseJson(await archive.readEntry(manifest, LIMITS.textMemberBytes));
  });
  if (!json) return { kit: null, problems, warnings: [] };
  const head: Partial<Record<keyof KitHead, unknown>> = {};
  for (const [field, read] of Object.entries(HEAD_FIELDS))
    head[field as keyof KitHead] = await attempt(() => read(json));
  const steps: KitStep[] = [];
  for (const [i, step] of ((await attempt(() => listOfSteps(json['steps']))) ?? []).entries()) {
    const checked = await attempt(() => {
      if (!isObject(step)) throw invalid(`step ${i + 1} is not an object`);
      return checkStep(step, `step ${i + 1}`);
    });
    if (checked) steps.push(checked);
  }
  const files = new Map<string, Uint8Array>();
  let total = 0;
  for (const step of steps) {
    if (step.do !== 'add' || files.has(step.from)) continue;
    const bytes = await attempt(() => {
      const entry = findEntry(archive, step.from);
      if (!entry) throw invalid(`a step adds "${step.from}", which the kit does not hold`);
      return archive.readEntry(entry, LIMITS.kitBytes - total);
    });
    if (bytes) files.set(step.from, bytes);
    total += bytes?.length ?? 0;
  }
  if (problems.length > 0) return { kit: null, problems, warnings: [] };
  const kit: Kit = { ...(head as KitHead), steps, files };
  return { kit, problems, warnings: warningsOf(kit) };
}

function warningsOf(kit: Kit): string[] {
  const warnings: string[] = [];
  if (kit.marker === null)
    warnings.push('the kit names no marker: an image patched with it cannot be told by it');
  else if (!pathsWritten(kit).includes(kit.marker)) warnings.push(`no step writes the marker ${kit.marker}`);
  if (kit.supports.partitions === null)
    warnings.push('the kit names no partitions: it will be offered for every one');
  if (kit.supports.sdk === null)
    warnings.push('the kit names no platform levels: it will be offered for every release');
  return warnings;
}

function parseJson(bytes: Uint8Array): Json {
  let value: unknown;
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (thrown) {
    throw invalid(`${KIT_MANIFEST_NAME} is no JSON: ${(thrown as Error).message}`);
  }
  if (!isObject(value)) throw invalid(`${KIT_MANIFEST_NAME} is not an object`);
  if (value['format'] !== FORMAT) throw invalid(`${KIT_MANIFEST_NAME} does not say "format": "${FORMAT}"`);
  if (value['formatVersion'] !== 1)
    throw invalid(`format version ${JSON.stringify(value['formatVersion'])}; version 1 can be read`);
  return value;
}

function text(json: Json, field: string, where: string, mayBeEmpty = false): string {
  const value = json[field];
  if (typeof value !== 'string') throw invalid(`${where}: "${field}" must be a text`);
  if (value === '' && !mayBeEmpty) throw invalid(`${where}: "${field}" is empty`);
  return value;
}

type KitHead = Omit<Kit, 'steps' | 'files'>;

const HEAD_FIELDS: { readonly [K in keyof KitHead]: (json: Json) => KitHead[K] } = {
  id: (json) => text(json, 'id', KIT_MANIFEST_NAME),
  name: (json) => text(json, 'name', KIT_MANIFEST_NAME),
  version: (json) => text(json, 'version', KIT_MANIFEST_NAME),
  versionCode(json) {
    const value = json['versionCode'];
    if (!Number.isSafeInteger(value))
      throw invalid(`${KIT_MANIFEST_NAME}: "versionCode" must be a whole number`);
    return value as number;
  },
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
};

function checkSupports(value: unknown): Kit['supports'] {
  if (!isObject(value)) throw invalid('"supports" must be an object');
  const { sdk, partitions, architectures } = value;
  const texts = (list: unknown, name: string): readonly string[] | null => {
    if (list === undefined) return null;
    if (!Array.isArray(list) || list.some((item) => typeof item !== 'string'))
      throw invalid(`"supports.${name}" must be a list of texts`);
    return list as string[];
  };
  if (
    sdk !== undefined &&
    !(
      Array.isArray(sdk) &&
      sdk.length === 2 &&
      sdk.every((n) => Number.isSafeInteger(n)) &&
      (sdk[0] as number) <= (sdk[1] as number)
    )
  ) {
    throw invalid('"supports.sdk" must be two whole numbers, lowest and highest');
  }
  return {
    sdk: sdk === undefined ? null : (sdk as [number, number]),
    partitions: texts(partitions, 'partitions'),
    architectures: texts(architectures, 'architectures'),
  };
}

/**
 * Rules for every path in a kit: nothing that could leave the ramdisk or name no entry.
 * @throws {EternoError} `kit-invalid`
 */
function checkPath(path: string, where: string): void {
  const parts = path.split('/');
  if (path === '' || parts.some((part) => part === '' || part === '.' || part === '..'))
    throw invalid(`${where}: the path "${path}" has an empty part, "." or ".."`);
  if (path.includes('\0')) throw invalid(`${where}: a path holds a NUL`);
  if (path === 'TRAILER!!!') throw invalid(`${where}: no entry may be named TRAILER!!!`);
}

function listOfSteps(value: unknown): readonly unknown[] {
  if (!Array.isArray(value)) throw invalid('"steps" must be a list');
  if (value.length > LIMITS.kitSteps) throw invalid(`more than ${LIMITS.kitSteps} steps`);
  return value;
}

function checkStep(step: Json, where: string): KitStep {
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
  const owned = () => ({ uid: id('uid'), gid: id('gid'), replace: flag('replace') });
  const kind = step['do'];
  switch (kind) {
    case 'mkdir':
      return { do: kind, path: path('path'), mode: mode(), ...owned() };
    case 'add':
      return { do: kind, path: path('path'), from: text(step, 'from', where), mode: mode(), ...owned() };
    case 'write':
      return {
        do: kind,
        path: path('path'),
        text: checkVariables(text(step, 'text', where, true), where),
        mode: mode(),
        ...owned(),
      };
    case 'link':
      return { do: kind, path: path('path'), to: linkTarget(step, where), ...owned() };
    case 'keep':
      return { do: kind, path: path('path'), as: path('as'), ifPresent: flag('ifPresent') };
    case 'remove':
      return { do: kind, path: path('path'), ifPresent: flag('ifPresent') };
    case 'replaceText':
      return {
        do: kind,
        path: path('path'),
        find: text(step, 'find', where),
        with: text(step, 'with', where, true),
        ifPresent: flag('ifPresent'),
      };
    case 'cmdline':
      return { do: kind, append: text(step, 'append', where) };
    default:
      throw invalid(`${where}: unknown step ${JSON.stringify(kind)}`);
  }
}

function linkTarget(step: Json, where: string): string {
  const to = text(step, 'to', where);
  if (to.includes('\0')) throw invalid(`${where}: a link target holds a NUL`);
  return to;
}

function checkVariables(value: string, where: string): string {
  for (const [, name] of value.matchAll(VARIABLE_PATTERN)) {
    if (!(KIT_VARIABLES as readonly string[]).includes(name!))
      throw invalid(`${where}: "{{${name}}}" is no variable a kit can use`);
  }
  return value;
}

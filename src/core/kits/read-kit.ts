import type { ByteSource } from '../bytes/byte-source';
import { EternoError } from '../errors';
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
const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value);
const invalid = (message: string) => new EternoError('kit-invalid', message);

/** Reads a kit from its ZIP and checks all of it before anything is applied. @throws {EternoError} `kit-invalid` */
export async function readKit(source: ByteSource, ports: Ports): Promise<ReadKit> {
  let archive: ZipArchive;
  try {
    archive = await ports.openZip(source);
  } catch (thrown) {
    throw new EternoError('kit-invalid', `a kit is a ZIP, and this can't be read as one: ${(thrown as Error).message}`, {
      file: source.name,
      cause: thrown,
    });
  }
  return readKitArchive(archive, source.name);
}

/** @throws {EternoError} `kit-invalid` */
export async function readKitArchive(archive: ZipArchive, file: string): Promise<ReadKit> {
  try {
    const manifest = findEntry(archive, KIT_MANIFEST_NAME);
    if (!manifest) throw invalid(`the kit has no ${KIT_MANIFEST_NAME}`);
    const json = parseJson(await archive.readEntry(manifest, LIMITS.textMemberBytes));
    const head = checkHead(json);
    const steps = checkSteps(json['steps']);
    const files = new Map<string, Uint8Array>();
    let total = 0;
    for (const step of steps) {
      if (step.do !== 'add' || files.has(step.from)) continue;
      const entry = findEntry(archive, step.from);
      if (!entry) throw invalid(`a step adds "${step.from}", which the kit does not hold`);
      files.set(step.from, await archive.readEntry(entry, LIMITS.kitBytes - total));
      total += entry.size;
    }
    const kit: Kit = { ...head, steps, files };
    const warnings: string[] = [];
    if (kit.marker === null) warnings.push('the kit names no marker: an image patched with it can not be told by it');
    else if (!pathsWritten(kit).includes(kit.marker)) warnings.push(`no step writes the marker ${kit.marker}`);
    return { kit, warnings };
  } catch (thrown) {
    const error = thrown as EternoError;
    if (error.code === 'kit-invalid') throw error.inFile(file);
    throw new EternoError('kit-invalid', error.message, { file, cause: thrown });
  }
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
  if (value['formatVersion'] !== 1) throw invalid(`format version ${JSON.stringify(value['formatVersion'])}; version 1 can be read`);
  return value;
}

function text(json: Json, field: string, where: string, mayBeEmpty = false): string {
  const value = json[field];
  if (typeof value !== 'string') throw invalid(`${where}: "${field}" must be a text`);
  if (value === '' && !mayBeEmpty) throw invalid(`${where}: "${field}" is empty`);
  return value;
}

function checkHead(json: Json): Omit<Kit, 'steps' | 'files'> {
  const where = KIT_MANIFEST_NAME;
  const versionCode = json['versionCode'];
  if (!Number.isSafeInteger(versionCode)) throw invalid(`${where}: "versionCode" must be a whole number`);
  const channel = json['channel'];
  if (channel !== 'stable' && channel !== 'preview') throw invalid(`${where}: "channel" must be stable or preview`);
  const marker = json['marker'];
  if (marker !== undefined && typeof marker !== 'string') throw invalid(`${where}: "marker" must be a path`);
  if (marker !== undefined) checkPath(marker, 'marker');
  return {
    id: text(json, 'id', where),
    name: text(json, 'name', where),
    version: text(json, 'version', where),
    versionCode: versionCode as number,
    channel,
    supports: checkSupports(json['supports']),
    marker: marker ?? null,
  };
}

function checkSupports(value: unknown): Kit['supports'] {
  if (!isObject(value)) throw invalid('"supports" must be an object');
  const { sdk, partitions, architectures } = value;
  const texts = (list: unknown, name: string): readonly string[] | null => {
    if (list === undefined) return null;
    if (!Array.isArray(list) || list.some((item) => typeof item !== 'string')) throw invalid(`"supports.${name}" must be a list of texts`);
    return list as string[];
  };
  if (
    sdk !== undefined &&
    !(Array.isArray(sdk) && sdk.length === 2 && sdk.every((n) => Number.isSafeInteger(n)) && (sdk[0] as number) <= (sdk[1] as number))
  ) {
    throw invalid('"supports.sdk" must be two whole numbers, lowest and highest');
  }
  return {
    sdk: sdk === undefined ? null : (sdk as [number, number]),
    partitions: texts(partitions, 'partitions'),
    architectures: texts(architectures, 'architectures'),
  };
}

/** Rules for every path in a kit: nothing that could leave the ramdisk or name no entry. @throws {EternoError} `kit-invalid` */
function checkPath(path: string, where: string): void {
  const parts = path.split('/');
  if (path === '' || parts.some((part) => part === '' || part === '.' || part === '..'))
    throw invalid(`${where}: the path "${path}" has an empty part, "." or ".."`);
  if (path.includes('\0')) throw invalid(`${where}: a path holds a NUL`);
  if (path === 'TRAILER!!!') throw invalid(`${where}: no entry may be named TRAILER!!!`);
}

function checkSteps(value: unknown): KitStep[] {
  if (!Array.isArray(value)) throw invalid('"steps" must be a list');
  if (value.length > LIMITS.kitSteps) throw invalid(`more than ${LIMITS.kitSteps} steps`);
  return value.map((step: unknown, i) => {
    if (!isObject(step)) throw invalid(`step ${i + 1} is not an object`);
    return checkStep(step, `step ${i + 1}`);
  });
}

function checkStep(step: Json, where: string): KitStep {
  const path = (field: string) => {
    const value = text(step, field, where);
    checkPath(value, where);
    return value;
  };
  const flag = (field: string): boolean => {
    const value = step[field];
    if (value !== undefined && typeof value !== 'boolean') throw invalid(`${where}: "${field}" must be true or false`);
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
    if (!/^[0-7]{3,4}$/.test(value)) throw invalid(`${where}: the mode "${value}" is not 3 or 4 octal digits`);
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
      return { do: kind, path: path('path'), text: checkVariables(text(step, 'text', where, true), where), mode: mode(), ...owned() };
    case 'link':
      return { do: kind, path: path('path'), to: linkTarget(step, where), ...owned() };
    case 'keep':
      return { do: kind, path: path('path'), as: path('as'), ifPresent: flag('ifPresent') };
    case 'remove':
      return { do: kind, path: path('path'), ifPresent: flag('ifPresent') };
    case 'replaceText':
      return { do: kind, path: path('path'), find: text(step, 'find', where), with: text(step, 'with', where, true), ifPresent: flag('ifPresent') };
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
    if (!(KIT_VARIABLES as readonly string[]).includes(name!)) throw invalid(`${where}: "{{${name}}}" is no variable a kit can use`);
  }
  return value;
}

import type { ByteSource } from '../bytes/byte-source';
import { EternoError, toEternoError } from '../errors';
import type { ZipArchive } from '../formats/zip/zip-archive';
import { findEntry } from '../formats/zip/zip-archive';
import { LIMITS } from '../limits';
import type { Ports } from '../ports';
import type { Kit, KitStep } from './kit';
import { pathsWritten } from './kit';
import type { Json } from './kit-json';
import { invalid, isObject, KIT_MANIFEST_NAME } from './kit-json';
import type { KitHead } from './read-head';
import { HEAD_FIELDS } from './read-head';
import { checkStep } from './read-step';

const FORMAT = 'eterno-kit';

export interface ReadKit {
  readonly kit: Kit;
  readonly warnings: readonly string[];
}

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
      return checkStep(step, `step ${i + 1}`, {
        formatVersion: json['formatVersion'] as 1 | 2,
        options: (head.options ?? {}) as Kit['options'],
      });
    });
    if (checked) steps.push(checked);
  }
  const files = new Map<string, Uint8Array>();
  let total = 0;
  for (const step of steps) {
    if ((step.do !== 'add' && step.do !== 'kernel') || files.has(step.from)) continue;
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
  if (value['formatVersion'] !== 1 && value['formatVersion'] !== 2)
    throw invalid(`format version ${JSON.stringify(value['formatVersion'])}; versions 1 and 2 can be read`);
  return value;
}

function listOfSteps(value: unknown): readonly unknown[] {
  if (!Array.isArray(value)) throw invalid('"steps" must be a list');
  if (value.length > LIMITS.kitSteps) throw invalid(`more than ${LIMITS.kitSteps} steps`);
  return value;
}

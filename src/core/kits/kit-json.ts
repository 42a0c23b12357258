import { EternoError } from '../errors';

/* Values of a kit's manifest, each checked as it is read. */

export const KIT_MANIFEST_NAME = 'kit.json';

export type Json = Readonly<Record<string, unknown>>;
export const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
export const invalid = (message: string) => new EternoError('kit-invalid', message);

/** @throws {EternoError} `kit-invalid` */
export function text(json: Json, field: string, where: string, mayBeEmpty = false): string {
  const value = json[field];
  if (typeof value !== 'string') throw invalid(`${where}: "${field}" must be a text`);
  if (value === '' && !mayBeEmpty) throw invalid(`${where}: "${field}" is empty`);
  return value;
}

/** @throws {EternoError} `kit-invalid` */
export function wholeNumber(json: Json, field: string, where: string): number {
  const value = json[field];
  if (!Number.isSafeInteger(value)) throw invalid(`${where}: "${field}" must be a whole number`);
  return value as number;
}

/** Two whole numbers, lowest and highest. @throws {EternoError} `kit-invalid` */
export function range(value: unknown, where: string): readonly [number, number] {
  if (
    !Array.isArray(value) ||
    value.length !== 2 ||
    !value.every((one) => Number.isSafeInteger(one)) ||
    (value[0] as number) > (value[1] as number)
  )
    throw invalid(`${where} must be two whole numbers, lowest and highest`);
  return value as unknown as readonly [number, number];
}

/** @throws {EternoError} `kit-invalid` */
export function texts(value: unknown, where: string): readonly string[] {
  if (!Array.isArray(value) || value.some((item) => typeof item !== 'string'))
    throw invalid(`${where} must be a list of texts`);
  return value as string[];
}

/**
 * Rules for every path in a kit: nothing that could leave the ramdisk or name no entry.
 * @throws {EternoError} `kit-invalid`
 */
export function checkPath(path: string, where: string): void {
  const parts = path.split('/');
  if (path === '' || parts.some((part) => part === '' || part === '.' || part === '..'))
    throw invalid(`${where}: the path "${path}" has an empty part, "." or ".."`);
  if (path.includes('\0')) throw invalid(`${where}: a path holds a NUL`);
  if (path === 'TRAILER!!!') throw invalid(`${where}: no entry may be named TRAILER!!!`);
}

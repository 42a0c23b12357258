import type { ByteSource } from '../bytes/byte-source';
import { EternoError } from '../errors';
import type { PackageFile } from '../packages/package-files';
import { filesOfZip } from '../packages/package-files';
import { moduleNote } from '../packages/script-zip';
import type { Ports } from '../ports';

/* What a module ZIP holds, read from the file itself (docs/formats.md, "Module ZIP"). */

/** Kinds of what a module touches, the one that breaks a start most often first. */
export const SCOPES = ['kernel', 'framework hook', 'overlay', 'settings', 'host list', 'looks'] as const;
export type ModuleScope = (typeof SCOPES)[number];

export interface ModuleFacts {
  readonly id: string;
  readonly name: string;
  readonly version: string;
  readonly versionCode: number | null;
  readonly description: string;
  /** Everything it touches, the riskiest first. */
  readonly scopes: readonly { readonly scope: ModuleScope; readonly because: string }[];
  /** Paths of the system that it lays its files over, absolute, sorted. */
  readonly paths: readonly string[];
  readonly scripts: readonly string[];
}

export const MODULE_LIMITS = {
  files: 20_000,
  pathCharacters: 300,
  fieldCharacters: 200,
  zipBytes: 256 * 1024 * 1024,
} as const;

/** Trees at the top of a module that are laid over those of the handset. */
const TREES = ['system', 'vendor', 'product', 'system_ext', 'odm'];
const LOOKS = /^\/(?:system|product|vendor)\/(?:fonts|media|overlay)\//;
const FRAMEWORK =
  /^\/(?:system|system_ext|product)\/(?:framework|apex)\/|^\/(?:system|vendor|product|system_ext)\/lib(?:64)?\//;

const overSystem = (name: string): string | null => {
  const [tree, ...rest] = name.split('/');
  return tree !== undefined && TREES.includes(tree) && rest.length > 0 && rest.at(-1) !== ''
    ? `/${name}`
    : null;
};

function scopesOf(
  names: readonly string[],
  paths: readonly string[],
  properties: boolean,
): ModuleFacts['scopes'] {
  const found = new Map<ModuleScope, string>();
  const add = (scope: ModuleScope, because: string | undefined) => {
    if (because !== undefined && !found.has(scope)) found.set(scope, because);
  };
  add(
    'kernel',
    names.find((name) => /\.ko(?:\.gz|\.xz)?$/.test(name) || /(?:^|\/)modules\.(?:load|dep)$/.test(name)),
  );
  add(
    'framework hook',
    names.find((name) => /\.(?:so|dex|jar)$/.test(name) && overSystem(name) === null),
  );
  add(
    'framework hook',
    paths.find((path) => FRAMEWORK.test(path)),
  );
  for (const path of paths) {
    if (FRAMEWORK.test(path)) continue;
    if (path === '/system/etc/hosts') add('host list', path);
    else if (LOOKS.test(path)) add('looks', path);
    else add('overlay', path);
  }
  if (properties) add('settings', 'properties that it sets');
  return SCOPES.flatMap((scope) => (found.has(scope) ? [{ scope, because: found.get(scope)! }] : []));
}

/**
 * Reads what a module ZIP says of itself and what it lays over the system.
 * @throws {EternoError} `bad-magic` where it carries no note of a module, `bad-field`, `too-large`, what the
 *   ZIP reader throws
 */
export async function readModule(source: ByteSource, ports: Ports): Promise<ModuleFacts> {
  if (source.size > MODULE_LIMITS.zipBytes)
    throw new EternoError('too-large', 'a module has at most 256 MiB', { file: source.name });
  const files = filesOfZip(await ports.openZip(source));
  if (files.length > MODULE_LIMITS.files)
    throw new EternoError('too-large', `a module has at most ${MODULE_LIMITS.files} files`, {
      file: source.name,
    });
  const note = await moduleNote(files);
  if (!note)
    throw new EternoError('bad-magic', 'this carries no note with id, name and version, so it is no module', {
      file: source.name,
    });
  return moduleFacts(files, note, source.name);
}

function moduleFacts(
  files: readonly PackageFile[],
  note: ReadonlyMap<string, string>,
  file: string,
): ModuleFacts {
  const field = (key: string) => (note.get(key) ?? '').slice(0, MODULE_LIMITS.fieldCharacters);
  const id = field('id');
  if (!/^[A-Za-z][A-Za-z0-9._-]{0,59}$/.test(id))
    throw new EternoError('bad-field', `"${id.slice(0, 40)}" is no name of a module`, { file });
  const names = files.map(({ name }) => name);
  const long = names.find((name) => name.length > MODULE_LIMITS.pathCharacters);
  if (long !== undefined)
    throw new EternoError('too-large', `the path “${long.slice(0, 60)}…” is too long`, { file });
  const paths = [...new Set(names.flatMap((name) => overSystem(name) ?? []))].sort();
  const versionCode = Number(field('versionCode'));
  return {
    id,
    name: field('name'),
    version: field('version'),
    versionCode: field('versionCode') !== '' && Number.isSafeInteger(versionCode) ? versionCode : null,
    description: field('description'),
    scopes: scopesOf(
      names,
      paths,
      names.some((name) => name === 'system.prop' || name === 'settings.prop'),
    ),
    paths,
    scripts: names.filter((name) => /\.(?:sh|rc)$/.test(name)).sort(),
  };
}

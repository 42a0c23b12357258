/*
 * Modules that lay different files over the same path: which one wins is nobody's choice (docs/method.md,
 * "Modules").
 */

export interface LaidOver {
  readonly id: string;
  readonly paths: readonly string[];
}

export interface Clash {
  readonly path: string;
  readonly modules: readonly string[];
}

/** Every path that more than one of them lays over, sorted. */
export function clashesOf(modules: readonly LaidOver[]): Clash[] {
  const by = new Map<string, string[]>();
  for (const { id, paths } of modules)
    for (const path of new Set(paths)) by.set(path, [...(by.get(path) ?? []), id]);
  return [...by]
    .filter(([, ids]) => ids.length > 1)
    .map(([path, ids]) => ({ path, modules: ids.sort() }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
}

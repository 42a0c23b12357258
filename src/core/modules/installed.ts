/** A module as a handset tells of it. */
export interface InstalledModule {
  readonly id: string;
  /** Null where it did not say. */
  readonly version: string | null;
}

/** What a handset with none says. */
const NONE = 'none';

/**
 * `id version, id version`; the version may be missing (docs/method.md, "Modules"). Of an id told twice the
 * first counts.
 */
export function parseInstalled(text: string | null): readonly InstalledModule[] {
  const found = new Map<string, InstalledModule>();
  for (const part of (text ?? '').split(',')) {
    const [id = '', ...rest] = part.trim().split(/\s+/);
    if (id !== '' && id !== NONE && !found.has(id)) found.set(id, { id, version: rest.join(' ') || null });
  }
  return [...found.values()];
}

export const installedText = (modules: readonly InstalledModule[]): string =>
  modules.length === 0
    ? NONE
    : modules.map(({ id, version }) => (version === null ? id : `${id} ${version}`)).join(', ');

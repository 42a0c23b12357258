import 'server-only';

const held = globalThis as { eternoTurns?: Map<string, Promise<unknown>> };
const turns = () => (held.eternoTurns ??= new Map());

/**
 * Runs works of one name after each other, in the order in which they came; those of other names beside them.
 */
export async function oneAtATime<T>(name: string, work: () => Promise<T>): Promise<T> {
  const before = turns().get(name) ?? Promise.resolve();
  const mine = before.then(work, work);
  const settled = mine.catch(() => undefined);
  turns().set(name, settled);
  try {
    return await mine;
  } finally {
    if (turns().get(name) === settled) turns().delete(name);
  }
}

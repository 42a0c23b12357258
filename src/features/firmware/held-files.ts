/*
 * Files that were opened in this tab: as long as it lives the browser lets them be read again, without their
 * being chosen again. A file is known by its name and size, as the server remembers packages.
 */

const held = new Map<string, readonly File[]>();
const keyOf = (name: string, sizeBytes: number) => `${sizeBytes} ${name}`;

/** Remembers the files that make a package, the first of them first. */
export function holdFiles(files: readonly File[]): void {
  const sizeBytes = files.reduce((sum, { size }) => sum + size, 0);
  if (files[0]) held.set(keyOf(files[0].name, sizeBytes), files);
}

/** Null where this tab never had them. */
export const heldFiles = (name: string, sizeBytes: number): readonly File[] | null =>
  held.get(keyOf(name, sizeBytes)) ?? null;

import 'server-only';
import { join, resolve } from 'node:path';

/** The one setting for where everything lives; by default a folder in the checkout that git ignores. */
export function dataDir(): string {
  return resolve(/*turbopackIgnore: true*/ process.env.ETERNO_DATA ?? 'data');
}
export const databasePath = () => join(/*turbopackIgnore: true*/ dataDir(), 'eterno.sqlite');
export const vaultDir = () => join(/*turbopackIgnore: true*/ dataDir(), 'vault');
/** Lies there where the demo made this world. */
export const demoMarker = () => join(/*turbopackIgnore: true*/ dataDir(), 'demo.json');

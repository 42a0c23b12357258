import { basename } from 'node:path';
import { installedBuildSchema } from '@/contracts/inputs';
import { EternoError } from '@/core/errors';
import type { InstalledBuild } from '@/core/fit/fit-package';
import { readText } from './files';

const FROM = 'the facts file';

/**
 * A file as the verb `facts` prints it: what is installed on a handset, and its serial.
 * @throws {EternoError} `bad-field`, `too-large`
 */
export async function readFacts(path: string): Promise<InstalledBuild & { readonly serial: string | null }> {
  const text = await readText(path);
  try {
    const json = JSON.parse(text) as { serial?: unknown };
    const value = await installedBuildSchema.validate(json, { stripUnknown: true });
    return {
      ...value,
      serial: typeof json.serial === 'string' ? json.serial : null,
      sources: { fingerprint: FROM, device: FROM, patchLevel: FROM, bootloader: FROM },
    };
  } catch (thrown) {
    throw new EternoError(
      'bad-field',
      `the facts cannot be read: ${thrown instanceof Error ? thrown.message : 'no object'}`,
      {
        file: basename(path),
      },
    );
  }
}

import { unslotted } from '../text/partition-names';
import { LIMITS } from '../limits';
import type { PackageFile } from './package-files';
import { baseName, findFile, parseKeyValues, readTextFile } from './package-files';
import type { OpenedPackage } from './package-report';
import { unknownPackage } from './unknown-package';

/*
 * ZIPs that a recovery or a root manager installs (docs/formats.md, "Packages"): they hold no stock image;
 * what they say they write is told.
 */

const SCRIPT_FOLDER = 'META-INF/com/google/android/';
/** A script longer than this is a program, not a text. */
const LONGEST_SCRIPT_BYTES = 256 * 1024;
const RISKY: Readonly<Record<string, string>> = {
  boot: 'the kernel and, on some handsets, root',
  init_boot: 'root',
  vendor_boot: 'what the kernel starts with',
  recovery: 'the recovery',
  bootloader: 'the bootloader',
  dtbo: 'the device trees',
  vbmeta: 'verified boot',
};

/** Said of a package whose script takes something away again. */
export const UNINSTALLS = 'its script speaks of uninstalling';

/** Partitions that a script writes: targets by name that are not only read from. */
export function partitionsWritten(script: string): string[] {
  const found = new Set<string>();
  for (const line of script.split('\n')) {
    if (/^\s*#/.test(line)) continue;
    for (const [, read, path] of line.matchAll(/(if=|<\s*)?["']?(\/dev\/block\/[^\s"',;)]*)/g)) {
      const name = /by-name\/([A-Za-z0-9_-]{1,63})/.exec(path!)?.[1];
      if (!read && name) found.add(unslotted(name));
    }
  }
  return [...found].sort();
}

async function scriptText(files: readonly PackageFile[]): Promise<string> {
  const texts: string[] = [];
  for (const file of files) {
    if (texts.length >= LIMITS.textMembers) break;
    const isScript =
      /\.(sh|rc)$/i.test(file.name) ||
      [`${SCRIPT_FOLDER}updater-script`, `${SCRIPT_FOLDER}update-binary`].includes(file.name);
    if (!isScript || file.size > LONGEST_SCRIPT_BYTES) continue;
    const text = await readTextFile(file);
    if (!text.includes('\0')) texts.push(text);
  }
  return texts.join('\n');
}

/** The note a module carries at its top: `key=value` lines with id, name and version. */
export async function moduleNote(files: readonly PackageFile[]): Promise<ReadonlyMap<string, string> | null> {
  for (const file of files) {
    if (
      file.name !== baseName(file.name) ||
      file.size > 64 * 1024 ||
      !/\.(prop|txt|properties)$/i.test(file.name)
    )
      continue;
    const values = parseKeyValues(await readTextFile(file));
    if (['id', 'name', 'version'].every((key) => values.get(key))) return values;
  }
  return null;
}

/** A recovery or module ZIP told for what it is, or null. */
export async function openScriptZip(
  file: string,
  files: readonly PackageFile[],
): Promise<OpenedPackage | null> {
  const scripts = ['update-binary', 'updater-script'].filter(
    (name) => findFile(files, SCRIPT_FOLDER + name) !== null,
  );
  const note = await moduleNote(files);
  if (scripts.length === 0 && !(note && files.some((one) => /\.sh$/i.test(one.name)))) return null;
  const text = await scriptText(files);
  const writes = partitionsWritten(text);
  const warnings = writes.flatMap((name) =>
    RISKY[name] ? [`it says it writes ${name}: ${RISKY[name]}`] : [],
  );
  const evidence = scripts.map((name) => `holds ${SCRIPT_FOLDER}${name}: it is installed by a recovery`);
  if (!note && /\buninstall/i.test(text)) evidence.push(UNINSTALLS);
  if (note) evidence.unshift(`a module: ${note.get('name')} ${note.get('version')} (${note.get('id')})`);
  if (scripts.length > 0 && writes.length === 0)
    warnings.push('its script names no partition that it writes');
  const why = note
    ? 'a module holds no stock image'
    : 'an install package for a recovery holds no stock image';
  const { report, ...rest } = unknownPackage(file, why);
  return {
    ...rest,
    report: { ...report, kind: note ? 'module-zip' : 'recovery-zip', evidence, warnings, writes },
  };
}

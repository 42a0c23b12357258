import { LIMITS } from '../limits';
import type { PackageFile } from './package-files';
import { baseName, findFile, parseKeyValues, readTextFile } from './package-files';
import type { OpenedPackage } from './package-report';
import type { ScriptTargets, Unclear } from './script-targets';
import { scriptTargets } from './script-targets';
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

interface Scripts {
  readonly text: string;
  /** A script of it is a program, and no text beside it says what that does. */
  readonly compiled: boolean;
}

async function readScripts(files: readonly PackageFile[]): Promise<Scripts> {
  const texts: string[] = [];
  let [program, script] = [false, false];
  for (const file of files) {
    if (texts.length >= LIMITS.textMembers) break;
    const isUpdater = file.name === `${SCRIPT_FOLDER}update-binary`;
    const isScript =
      /\.(sh|rc)$/i.test(file.name) || isUpdater || file.name === `${SCRIPT_FOLDER}updater-script`;
    if (!isScript) continue;
    const text = file.size > LONGEST_SCRIPT_BYTES ? '\0' : await readTextFile(file);
    if (text.includes('\0')) program = true;
    else {
      texts.push(text);
      script ||= file.name.endsWith('updater-script') && /[a-z_]+\(/.test(text);
    }
  }
  return { text: texts.join('\n'), compiled: program && !script };
}

/** What it says it writes, and why that is not all of it where it is not. */
function targetsOf({ text, compiled }: Scripts): ScriptTargets {
  const found = scriptTargets(text);
  return compiled ? { ...found, unclear: 'compiled' } : found;
}

const UNCLEAR_WORDS: Readonly<Record<Unclear, string>> = {
  computed: 'what it writes can’t be told: its script works a place out when it runs',
  compiled: 'what it writes can’t be told: its updater is a program',
  unnamed: 'what it writes can’t be told: its script names no partition, and may choose one itself',
};

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
  const read = await readScripts(files);
  const script = targetsOf(read);
  const writes = script.targets.map(({ partition }) => partition).sort();
  const warnings = writes.flatMap((name) =>
    RISKY[name] ? [`it says it writes ${name}: ${RISKY[name]}`] : [],
  );
  const evidence = scripts.map((name) => `holds ${SCRIPT_FOLDER}${name}: it is installed by a recovery`);
  if (!note && /\buninstall/i.test(read.text)) evidence.push(UNINSTALLS);
  if (note) evidence.unshift(`a module: ${note.get('name')} ${note.get('version')} (${note.get('id')})`);
  if (!note && script.unclear !== null) warnings.push(UNCLEAR_WORDS[script.unclear]);
  const why = note
    ? 'a module holds no stock image'
    : 'an install package for a recovery holds no stock image';
  const { report, ...rest } = unknownPackage(file, why);
  return {
    ...rest,
    report: {
      ...report,
      kind: note ? 'module-zip' : 'recovery-zip',
      evidence,
      warnings,
      writes,
      ...(note ? {} : { script }),
    },
  };
}

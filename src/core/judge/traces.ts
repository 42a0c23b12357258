import type { EntryReport } from '../packages/list-ramdisk';
import type { JudgedSide } from './judged-side';
import { pairsOf } from './judged-side';

/*
 * What a patch leaves behind in a ramdisk: notes of providers, and kept copies of what was replaced
 * (docs/method.md, "Images patched elsewhere").
 */

/** A note that some provider left: who patched, and the hash of what it was patched from. */
export interface PatchNote {
  readonly file: string;
  /** As it names itself; null where it does not. */
  readonly kit: string | null;
  /** SHA-256 (64) or SHA-1 (40) in lower-case hex. */
  readonly from: string;
}

export interface PatchTraces {
  readonly notes: readonly PatchNote[];
  /** Names of entries that hold what another entry was before. */
  readonly kept: readonly string[];
  /** How often it was patched by what it shows; 0 where it shows nothing. */
  readonly times: number;
}

const HASH = /^(?:[0-9a-f]{64}|[0-9a-f]{40})$/i;
const NAMES = ['kit', 'tool', 'provider', 'patcher', 'program', 'by', 'name'];

function noteOf(file: string, fields: Readonly<Record<string, unknown>>): PatchNote | null {
  const hashes = Object.entries(fields).filter(
    (field): field is [string, string] => typeof field[1] === 'string' && HASH.test(field[1]),
  );
  const from = hashes.find(([key]) => /stock|orig|source/i.test(key)) ?? hashes[0];
  if (!from) return null;
  const kit = NAMES.map((key) => fields[key]).find(
    (value): value is string => typeof value === 'string' && value !== '' && !HASH.test(value),
  );
  return { file, kit: kit ?? null, from: from[1].toLowerCase() };
}

function fieldsOf(text: string): Readonly<Record<string, unknown>> {
  if (!text.trimStart().startsWith('{')) return pairsOf(text);
  try {
    return JSON.parse(text) as Readonly<Record<string, unknown>>;
  } catch {
    // it only looks like JSON
    return {};
  }
}

/** Notes of one provider say the same thing once, in however many files. */
function distinct(notes: readonly PatchNote[]): PatchNote[] {
  return notes.filter(
    (note, i) =>
      !notes
        .slice(0, i)
        .some(
          (one) => one.from === note.from && (one.kit === note.kit || note.kit === null || one.kit === null),
        ),
  );
}

/** The name of an entry that keeps what `init` was: `init` in a folder, `init.stock`, `kept-init`. */
const KEPT_INIT =
  /^(?:init(?:[._-](?:stock|orig|original|bak|backup|kept|old|real|prev|saved))?|(?:stock|orig|original|kept|old|backup|saved)[._-]init)$/i;

const lastPart = (name: string) => name.slice(name.lastIndexOf('/') + 1);
const isRunnable = ({ mode }: EntryReport) => mode.startsWith('10') && (parseInt(mode, 8) & 0o111) !== 0;

/** Entries in force by name. */
export const byName = (entries: readonly EntryReport[] | null): ReadonlyMap<string, EntryReport> =>
  new Map((entries ?? []).map((entry) => [entry.name, entry]));

/**
 * @param stock null where it is not at hand: then only notes and names speak
 * @param sameBuild whether both sides name the same build: only then a kept `init` that is not the stock's is
 *   one that was patched before, and not another build's
 */
export function tracesOf(
  stock: Pick<JudgedSide, 'entries'> | null,
  patched: JudgedSide,
  sameBuild: boolean,
): PatchTraces {
  const [before, now] = [byName(stock?.entries ?? null), byName(patched.entries)];
  const isNew = (name: string) => before.get(name)?.sha256 !== now.get(name)?.sha256;
  const notes = distinct(
    patched.texts
      .filter(({ name }) => isNew(name))
      .flatMap(({ name, text }) => noteOf(name, fieldsOf(text)) ?? []),
  );
  const added = [...now.values()].filter(({ name }) => name !== 'init' && isNew(name));
  const init = before.get('init');
  const inits = added.filter(
    (entry) =>
      (init !== undefined && entry.size > 0 && entry.sha256 === init.sha256) ||
      (KEPT_INIT.test(lastPart(entry.name)) && isRunnable(entry)),
  );
  const layers = new Set(inits.map(({ sha256 }) => sha256));
  const stockKept = init !== undefined && layers.has(init.sha256);
  const underneath = layers.size > 0 && !stockKept && sameBuild ? 1 : 0;
  const replaced = [...before.values()].filter(
    ({ name, sha256, size }) => size > 0 && now.get(name)?.sha256 !== sha256,
  );
  const kept = added.filter(({ sha256, size }) => size > 0 && replaced.some((one) => one.sha256 === sha256));
  return {
    notes,
    kept: [...new Set([...kept, ...inits].map(({ name }) => name))],
    times: Math.max(notes.length, layers.size + underneath),
  };
}

/** How often an image was patched and by whom, by what it shows of itself. */
export function signsOfPatch(side: JudgedSide): { readonly by: readonly string[]; readonly times: number } {
  const { notes, times } = tracesOf(null, side, false);
  return { by: [...new Set(notes.flatMap(({ kit }) => kit ?? []))], times };
}

/** Whether an image holds the note of a patch: then it is no stock image, whatever it is held against. */
export const traceOfPatch = ({ texts }: JudgedSide): boolean =>
  texts.some(({ name, text }) => noteOf(name, fieldsOf(text)) !== null);

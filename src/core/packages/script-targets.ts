import { unslotted } from '../text/partition-names';

/*
 * What the script of an install package says it writes (docs/method.md, "More that files tell"). It is read, never
 * run: what the script works out by itself can't be told.
 */

export interface ScriptTarget {
  readonly partition: string;
  /** The file of the package that goes there; null where the line names none. */
  readonly member: string | null;
}
/**
 * Why what it writes can't be told: a place is worked out when it runs; the updater is a program; or no line names a
 * place, and it may still choose one.
 */
export type Unclear = 'computed' | 'compiled' | 'unnamed';

export interface ScriptTargets {
  /** By the order of the lines. */
  readonly targets: readonly ScriptTarget[];
  /** Null where all of it is told. */
  readonly unclear: Unclear | null;
}

const BY_NAME = /by-name\/([A-Za-z0-9_-]{1,63})$/;
/** A device by another path than its partition's name; those that keep nothing are none. */
const A_DEVICE = /^\/dev\/(?!(?:null|zero|u?random|tty\w*|stdout|stderr|fd\/\d+|kmsg)$)/;
const BLOCK = /\/dev\/block\/[^\s"',;)]*/g;

interface Found {
  readonly path: string;
  readonly member: string | null;
}

const bare = (word: string | undefined) => word?.replace(/^["']|["']$/g, '') ?? null;
/** A file of the package, by its name in it: scripts unpack it into a folder first. */
const memberOf = (word: string | undefined): string | null => {
  const name = bare(word)?.replace(/^(?:\$\{?[A-Za-z_]+\}?|\.|\/tmp)\//, '') ?? null;
  return name === null || /[$`*?]/.test(name) || name.startsWith('/') || name.startsWith('-') ? null : name;
};

/** Places that a line writes to; of one that only reads there are none. */
function writtenBy(line: string): Found[] {
  const edify = [...line.matchAll(/package_extract_file\(\s*"([^"]+)"\s*,\s*"([^"]+)"\s*\)/g)];
  if (edify.length > 0) return edify.map(([, member, path]) => ({ path: path!, member: memberOf(member) }));
  const dd = /\bdd\b/.test(line) ? /\bof=("[^"]*"|'[^']*'|\S+)/.exec(line) : null;
  if (dd) {
    const from = /\bif=("[^"]*"|'[^']*'|\S+)/.exec(line);
    return [{ path: bare(dd[1])!, member: memberOf(from?.[1]) }];
  }
  const redirected = redirect(line);
  if (redirected) return [redirected];
  // any other word that is given a place may write there
  return [...line.matchAll(BLOCK)].flatMap((match) =>
    READS.test(line.slice(Math.max(0, match.index - 24), match.index))
      ? []
      : [{ path: match[0], member: null }],
  );
}

/** Words that only read what follows them. */
const READS = /(?:if=|<|\b(?:cat|ls|stat|sha\d*sum|md5sum|cmp)|\[ -\w)\s*["']?$/;

/** Its last `>`: what stands before it goes to the place behind it. */
function redirect(line: string): Found | null {
  const at = line.lastIndexOf('>');
  if (at <= 0) return null;
  const to = line.slice(at + 1).trimStart();
  const path = /^("[^"]*"|'[^']*'|`[^`]*`|\$\([^)]*\)|[^\s;&|)]+)/.exec(to)?.[1];
  if (path === undefined) return null;
  const from = line.slice(0, at).replace(/>$/, '').trimEnd();
  return { path: bare(path)!, member: memberOf(from.slice(from.lastIndexOf(' ') + 1)) };
}

/** What one or several scripts say, one after the other. */
export function scriptTargets(script: string): ScriptTargets {
  const targets = new Map<string, ScriptTarget>();
  let computed = false;
  for (const line of script.split('\n')) {
    if (line.trimStart().startsWith('#')) continue;
    for (const { path, member } of line.split(/;|&&|\|\|/).flatMap(writtenBy)) {
      const name = BY_NAME.exec(path)?.[1];
      if (name !== undefined && !path.includes('$')) {
        const partition = unslotted(name);
        // two lines that put different files there: which one stays is not told
        if (targets.has(partition) && targets.get(partition)!.member !== member) computed = true;
        targets.set(partition, { partition, member });
      } else if (A_DEVICE.test(path) || /^\$|`/.test(path)) computed = true;
    }
  }
  const found = [...targets.values()];
  return { targets: found, unclear: computed ? 'computed' : found.length === 0 ? 'unnamed' : null };
}

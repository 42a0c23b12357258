/* What the host's own tool says of itself, as it prints it (docs/method.md, "The host's tool"). */

export interface HostTool {
  /** As printed, such as 35.0.2. */
  readonly version: string;
  /** Where the copy lies that answers; null where nothing says it. */
  readonly path: string | null;
  /** Other copies that were named: the one that answers is not always the one that was meant. */
  readonly others: readonly string[];
}

const VERSION = /\b(?:version|v)?\s*(\d+(?:\.\d+){1,3}(?:-[0-9A-Za-z]+)?)\b/i;
const PATH = /(?:^|\s)((?:[A-Za-z]:\\|\/|~\/)[^\r\n"<>|]+?)\s*$/;

/** Reads the version line and the paths out of what was printed. @returns null where no version is in it */
export function readHostTool(printed: string): HostTool | null {
  const lines = printed.split(/\r\n|\n|\r/).map((line) => line.trim());
  const paths = [...new Set(lines.flatMap((line) => PATH.exec(line)?.[1] ?? []))];
  // a path may hold a number of its own: the version is looked for outside it
  const version = lines
    .map((line) => VERSION.exec(line.replace(PATH, ''))?.[1])
    .find((found) => found !== undefined);
  if (version === undefined) return null;
  const [path = null, ...others] = paths;
  return { version, path, others };
}

/** One sentence. */
export function hostToolWords({ version, path, others }: HostTool): string {
  const where = path === null ? '' : `, ${path}`;
  return `Version ${version}${where}.${others.length > 0 ? ` Another copy lies at ${others.join(', ')}: call the one you mean by its whole path.` : ''}`;
}

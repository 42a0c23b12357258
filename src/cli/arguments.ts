import { parseArgs } from 'node:util';
import { EternoError } from '@/core/errors';

export interface Arguments {
  readonly positionals: readonly string[];
  option(name: string): string | undefined;
  /** All values of an option that may be given several times. */
  options(name: string): readonly string[];
  /** @throws {EternoError} `usage` where it is missing */
  required(name: string): string;
}

/** Splits a verb's arguments; every option takes a value. @throws {EternoError} `usage` */
export function parseArguments(
  args: readonly string[],
  options: readonly string[],
  positionals: readonly [number, number],
  several: readonly string[] = [],
): Arguments {
  let parsed;
  try {
    parsed = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: Object.fromEntries(
        [...options, ...several].map((name) => [
          name,
          { type: 'string' as const, multiple: several.includes(name) },
        ]),
      ),
    });
  } catch (thrown) {
    throw new EternoError('usage', (thrown as Error).message);
  }
  const [least, most] = positionals;
  if (parsed.positionals.length < least || parsed.positionals.length > most) {
    throw new EternoError(
      'usage',
      `${parsed.positionals.length} arguments were given where ${least === most ? least : `${least} or more`} belong`,
    );
  }
  const values = parsed.values as Record<string, string | undefined>;
  const lists = parsed.values as Record<string, string[] | undefined>;
  return {
    positionals: parsed.positionals,
    option: (name) => values[name],
    options: (name) => lists[name] ?? [],
    required(name) {
      const value = values[name];
      if (value === undefined) throw new EternoError('usage', `--${name} is needed`);
      return value;
    },
  };
}

import 'server-only';
import type { CommandValues, CommandVerb, Shell, Vocabulary } from '@/core/rounds/commands';
import { checkTemplate, COMMAND_VERBS, fillCommand, OWN_VOCABULARY, SHELLS } from '@/core/rounds/commands';
import { readSetting, writeSetting } from '../repositories/setting-repository';

/* The person's own commands, kept as one setting. */

export interface OwnCommands {
  readonly shell: Shell;
  readonly vocabulary: Vocabulary;
}

const KEY = 'vocabulary';

export async function ownCommands(): Promise<OwnCommands> {
  const kept = await readSetting(KEY);
  if (kept === null) return { shell: 'posix', vocabulary: OWN_VOCABULARY };
  const { shell, vocabulary } = JSON.parse(kept) as OwnCommands;
  return { shell: SHELLS.includes(shell) ? shell : 'posix', vocabulary };
}

/** @throws {EternoError} `bad-field` for a template that can not be filled in */
export async function saveCommands(shell: Shell, templates: Readonly<Record<string, string>>): Promise<void> {
  const vocabulary: Partial<Record<CommandVerb, string>> = {};
  for (const verb of COMMAND_VERBS) {
    const template = (templates[verb] ?? '').trim();
    if (template === '') continue;
    checkTemplate(template);
    vocabulary[verb] = template;
  }
  await writeSetting(KEY, JSON.stringify({ version: 1, shell, vocabulary }));
}

export function commandOf({ shell, vocabulary }: OwnCommands, verb: CommandVerb | undefined, values: CommandValues): string | null {
  const template = verb === undefined ? undefined : vocabulary[verb];
  return template === undefined ? null : fillCommand(template, values, shell);
}

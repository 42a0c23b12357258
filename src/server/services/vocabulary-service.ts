import 'server-only';
import type { CommandValues, CommandVerb, Shell, Vocabulary } from '@/core/steps/commands';
import {
  checkTemplate,
  COMMAND_VERBS,
  fillCommand,
  FORMER_OWN,
  OWN_VOCABULARY,
  SHELLS,
} from '@/core/steps/commands';
import type { HostTool } from '@/core/steps/host-tool';
import { readHostTool } from '@/core/steps/host-tool';
import { readSetting, writeSetting } from '../repositories/setting-repository';

/* The person's own commands, kept as one setting. */

export interface OwnCommands {
  readonly shell: Shell;
  readonly vocabulary: Vocabulary;
  /** What the person's tool printed of its version and path. */
  readonly tool: string;
}

const KEY = 'vocabulary';

export async function ownCommands(): Promise<OwnCommands> {
  const kept = await readSetting(KEY);
  if (kept === null) return { shell: 'posix', vocabulary: OWN_VOCABULARY, tool: '' };
  const { shell, vocabulary, tool = '' } = JSON.parse(kept) as Partial<OwnCommands>;
  const own = Object.entries(vocabulary ?? {}).map(([verb, template]) => [
    verb,
    FORMER_OWN.includes(template) ? OWN_VOCABULARY[verb as CommandVerb] : template,
  ]);
  return {
    shell: shell && SHELLS.includes(shell) ? shell : 'posix',
    vocabulary: Object.fromEntries(own) as Vocabulary,
    tool,
  };
}

/** @throws {EternoError} `bad-field` for a template that cannot be filled in */
export async function saveCommands(
  shell: Shell,
  templates: Readonly<Record<string, string>>,
  tool: string,
): Promise<void> {
  const vocabulary: Partial<Record<CommandVerb, string>> = {};
  for (const verb of COMMAND_VERBS) {
    const template = (templates[verb] ?? '').trim();
    if (template === '') continue;
    checkTemplate(template);
    vocabulary[verb] = template;
  }
  await writeSetting(KEY, JSON.stringify({ version: 1, shell, vocabulary, tool }));
}

/** Who writes when a step is done by hand: Eterno's own command, or the person's tool as it named itself. */
export function hostToolOf({ vocabulary, tool }: OwnCommands): 'own' | HostTool | null {
  return vocabulary.write === undefined || vocabulary.write === OWN_VOCABULARY.write
    ? 'own'
    : readHostTool(tool);
}

export function commandOf(
  { shell, vocabulary }: OwnCommands,
  verb: CommandVerb | undefined,
  values: CommandValues,
): string | null {
  const template = verb === undefined ? undefined : vocabulary[verb];
  return template === undefined ? null : fillCommand(template, values, shell);
}

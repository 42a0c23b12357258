'use client';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { CommandVerb, Shell, Vocabulary } from '@/core/steps/commands';
import { hostToolWords, readHostTool } from '@/core/steps/host-tool';
import { checkTemplate, COMMAND_VERBS, fillCommand, PLACEHOLDERS, SHELLS } from '@/core/steps/commands';
import { ErrorNote } from '@/ui/error-note';
import { useAct } from '@/ui/use-act';
import { saveCommandsAction } from './actions';

const EXAMPLE = {
  file: 'init_boot 0a41e7.img',
  partition: 'init_boot',
  slot: 'a',
  target: 'init_boot_a',
  serial: 'SERIAL',
  path: '/storage',
  code: 'CODE',
  address: 'HOST:PORT',
  stock: 'init_boot-stock.img',
  facts: 'facts.json',
} as const;
const SHELL_WORDS: Readonly<Record<Shell, string>> = {
  posix: 'a Unix shell',
  powershell: 'PowerShell',
  cmd: 'the Windows prompt',
};

interface Props {
  readonly shell: Shell;
  readonly vocabulary: Vocabulary;
  readonly tool: string;
}

/**
 * The person's own commands, a template a verb; they are shown at the steps they belong to, filled in and
 * quoted.
 */
export function Vocabulary({ shell: keptShell, vocabulary, tool: keptTool }: Props) {
  const { act, busy, error, dismiss } = useAct();
  const [shell, setShell] = useState(keptShell);
  const [tool, setTool] = useState(keptTool);
  const read = readHostTool(tool);
  const [templates, setTemplates] = useState<Readonly<Partial<Record<CommandVerb, string>>>>(vocabulary);
  return (
    <section aria-label="Commands in your own words" style={{ marginTop: 22 }}>
      <h2>Commands in your own words</h2>
      <p className="soft">
        What you type for each of these with the tools you use. Steps of a round show it filled in:{' '}
        {PLACEHOLDERS.map((name) => (
          <code key={name} className="mono small">
            {`{${name}}`}{' '}
          </code>
        ))}
      </p>
      {error ? <ErrorNote error={error} onDismiss={dismiss} /> : null}
      <table className="ledger">
        <tbody>
          {COMMAND_VERBS.map((verb) => (
            <tr key={verb}>
              <td style={{ width: 150 }}>{verb}</td>
              <td>
                <Input
                  className="mono"
                  size="small"
                  aria-label={`Command for: ${verb}`}
                  value={templates[verb] ?? ''}
                  onChange={(event) => setTemplates((known) => ({ ...known, [verb]: event.target.value }))}
                />
                <Preview template={templates[verb] ?? ''} shell={shell} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div style={{ marginTop: 10 }}>
        <label htmlFor="host-tool">
          What your tool prints when you ask for its version, and the path it lies at
        </label>
        <Input.TextArea
          id="host-tool"
          className="mono small"
          autoSize={{ minRows: 2, maxRows: 5 }}
          value={tool}
          onChange={(event) => setTool(event.target.value)}
        />
        {tool.trim() === '' ? null : (
          <span className={read ? 'soft small' : 'bad small'}>
            {read ? hostToolWords(read) : 'No version number is in it.'}
          </span>
        )}
      </div>
      <div style={{ display: 'flex', gap: 12, alignItems: 'center', marginTop: 10 }}>
        <span>Quoted for</span>
        <Select
          aria-label="Quoted for"
          style={{ width: 190 }}
          value={shell}
          onChange={setShell}
          options={SHELLS.map((value) => ({ value, label: SHELL_WORDS[value] }))}
        />
        <Button loading={busy} onClick={() => act(() => saveCommandsAction(shell, templates, tool))}>
          Keep these commands
        </Button>
      </div>
    </section>
  );
}

/** The template filled in, or what keeps it from being filled in. */
function previewOf(template: string, shell: Shell): { readonly text: string; readonly bad: boolean } {
  try {
    checkTemplate(template);
    return { text: fillCommand(template, EXAMPLE, shell) ?? '', bad: false };
  } catch (thrown) {
    return { text: thrown instanceof Error ? thrown.message : 'This cannot be filled in.', bad: true };
  }
}

function Preview({ template, shell }: { template: string; shell: Shell }) {
  if (template.trim() === '') return null;
  const { text, bad } = previewOf(template, shell);
  return <span className={bad ? 'bad small' : 'soft small mono'}>{text}</span>;
}

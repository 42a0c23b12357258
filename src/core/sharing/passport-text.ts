import { blankIn } from './blank-private';

/** What a handset's passport is written from. */
export interface PassportContent {
  readonly name: string;
  readonly model: string;
  readonly root: string;
  readonly facts: readonly {
    readonly group: string;
    readonly label: string;
    readonly value: string;
    readonly said: string;
    readonly contradicted: boolean;
  }[];
  readonly slots: readonly {
    readonly slot: string;
    readonly partition: string;
    readonly holds: string;
    readonly verdict: string;
  }[];
  readonly seats: readonly string[];
}

const cell = (text: string) => text.replace(/\|/g, '\\|').replace(/\s+/g, ' ');

/** A passport as Markdown, made to be shown to others: private values are blanked wherever they stand. */
export function passportText(content: PassportContent, privateValues: readonly string[]): string {
  const { name, model, root, facts, slots, seats } = blankIn(content, privateValues);
  const lines = [
    `# ${cell(name)}`,
    '',
    `${cell(model)}, ${root}.`,
    '',
    ...seats.map((seat) => `- ${cell(seat)}`),
  ];
  for (const group of [...new Set(facts.map((fact) => fact.group))]) {
    lines.push('', `## ${group}`, '', '| Fact | Value | Who said it |', '| --- | --- | --- |');
    for (const fact of facts.filter((one) => one.group === group))
      lines.push(
        `| ${cell(fact.label)} | ${cell(fact.value)}${fact.contradicted ? ' (contradicted)' : ''} | ${cell(fact.said)} |`,
      );
  }
  if (slots.length > 0) {
    lines.push(
      '',
      '## Slots',
      '',
      '| Partition | Slot | Holds | How it is known |',
      '| --- | --- | --- | --- |',
    );
    for (const slot of slots)
      lines.push(
        `| ${slot.partition} | ${slot.slot === '-' ? 'one' : slot.slot} | ${cell(slot.holds)} | ${slot.verdict} |`,
      );
  }
  return `${lines.join('\n')}\n`;
}

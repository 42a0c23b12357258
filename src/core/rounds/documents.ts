import { darkFirst, hold, holdFirst } from '../ways/speak';
import type { Ways } from '../ways/way-kinds';
/* Pages to print or keep: a plain document, and its Markdown (docs/method.md, "Pages"). */

export interface DocumentSection {
  readonly heading: string;
  readonly lines?: readonly string[];
  readonly steps?: readonly string[];
  /** To be copied: nothing in them is marked up. */
  readonly commands?: readonly { readonly what: string; readonly command: string }[];
  readonly table?: { readonly head: readonly string[]; readonly rows: readonly (readonly string[])[] };
}

export interface PlainDocument {
  readonly title: string;
  readonly about: readonly string[];
  readonly sections: readonly DocumentSection[];
}

/** A text that is no markup, on one line. */
const plain = (text: string) => text.replace(/\s+/g, ' ').replace(/[\\`*_[\]<>|#]/g, (mark) => `\\${mark}`);
const row = (cells: readonly string[]) => `| ${cells.map(plain).join(' | ')} |`;

/** A command as it stands, in a fence that is longer than any run of ticks in it. */
function fenced(command: string): string[] {
  const ticks = Math.max(2, ...[...command.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = '`'.repeat(ticks + 1);
  return [fence, ...command.split(/\r\n|\n|\r/), fence];
}

export function toMarkdown({ title, about, sections }: PlainDocument): string {
  const out = [`# ${plain(title)}`, '', ...about.map((line) => `${plain(line)}  `)];
  for (const { heading, lines, steps, commands, table } of sections) {
    out.push('', `## ${plain(heading)}`, '');
    for (const line of lines ?? []) out.push(`- ${plain(line)}`);
    (steps ?? []).forEach((step, i) => out.push(`${i + 1}. ${plain(step)}`));
    for (const { what, command } of commands ?? []) out.push(`${plain(what)}:`, '', ...fenced(command), '');
    if (table)
      out.push(
        row(table.head),
        row(table.head.map(() => '---')).replaceAll('\\', ''),
        ...table.rows.map(row),
      );
  }
  return `${out.join('\n')}\n`;
}

export interface PageImage {
  readonly what: string;
  readonly partition: string;
  /** Empty on a handset with one. */
  readonly slot: string;
  readonly build: string;
  /** The name of the file as it is handed out, its hash and size; null where the vault has not got it. */
  readonly file: { readonly name: string; readonly sha256: string; readonly sizeBytes: number } | null;
}

export interface PageInput {
  readonly title: string;
  readonly handset: string;
  readonly model: string;
  readonly build: string | null;
  readonly slot: string;
  readonly partition: string;
  readonly lane: string;
  readonly madeAt: string;
  readonly wayBack: string;
  readonly images: readonly PageImage[];
  readonly commands: readonly { readonly what: string; readonly command: string | null }[];
  /** Keys and words of its model, as far as they are known. */
  readonly ways: Ways;
  /** The mode in which it is written from outside. */
  readonly writesIn: 'bootloader' | 'download';
  /** A recovery of the person's own that the round has written or found there; null where there is none. */
  readonly ownRecovery: string | null;
  /** After so many failed starts the kit on it rests all modules; null where it does not say so. */
  readonly restsAfter: number | null;
}

const headOf = ({ handset, model, build, slot, lane, madeAt }: PageInput) => [
  `${handset}, ${model}`,
  `Build ${build ?? 'not known'}${slot === '' ? '' : `, slot ${slot}`}`,
  `Lane: ${lane}`,
  `Made ${madeAt}`,
];

const INTO = {
  bootloader: { keys: 'keys-bootloader', mode: 'the bootloader' },
  download: { keys: 'keys-download', mode: 'download mode' },
} as const;

/** What is tried when it loops, from what costs least to what costs most. */
function loopLadder({ ways, writesIn, ownRecovery, restsAfter }: PageInput, write: string): string[] {
  return [
    'Wait for two minutes: a first start after a change takes long. Where a computer with Eterno is near, its Rescue room asks one thing after another.',
    ...(restsAfter === null
      ? []
      : [`Hold no keys yet: after ${restsAfter} failed starts its kit starts it without any module.`]),
    ...(ownRecovery === null
      ? []
      : [
          `${holdFirst(ways, 'keys-recovery')}: where ${ownRecovery} opens, install the uninstaller of the kit or of the module through it. It has to be the one of the version that is on it; have its file beside this page.`,
        ]),
    `${holdFirst(ways, writesIn === 'bootloader' ? 'keys-loop' : INTO[writesIn].keys)}, until ${INTO[writesIn].mode} shows.`,
    `${write}, and start: root and modules are off then, data is as it was.`,
    'Still looping, two slots, and the other one never gave way to a newer build: select the other slot, once.',
    'The same or a newer whole build without wiping.',
    'Asked for a wipe: refuse. The newer build can still read the data.',
    'Nothing at all on screen after an hour on mains: the seller while he has to take it back, then a repairer.',
  ];
}

/** What helps when nothing else opens: files with hashes, the steps back, and what to do when it loops. */
export function rescuePage(input: PageInput): PlainDocument {
  const { partition, slot, images, commands, wayBack, ways, writesIn } = input;
  const into = INTO[writesIn];
  const target = slot === '' ? partition : `${partition} on slot ${slot}`;
  const file = images.find((one) => one.partition === partition && one.slot === slot)?.file?.name;
  const stock = file === undefined ? `the stock image of ${partition}` : `the stock image (${file})`;
  return {
    title: `Rescue page: ${input.handset}`,
    about: [...headOf(input), 'Keep it on something that is not this handset.'],
    sections: [
      { heading: 'The way back now', lines: [wayBack] },
      {
        heading: 'Files',
        table: {
          head: ['What', 'Goes to', 'Build', 'File', 'Bytes', 'SHA-256'],
          rows: images.map((image) => [
            image.what,
            image.slot === '' ? image.partition : `${image.partition} on slot ${image.slot}`,
            image.build,
            image.file?.name ?? 'missing: take it out of the package of this build',
            String(image.file?.sizeBytes ?? ''),
            image.file?.sha256 ?? '',
          ]),
        },
      },
      {
        heading: 'Back to stock',
        steps: [
          `${darkFirst(ways)} Then ${hold(ways, into.keys)}: ${into.mode}.`,
          'Read product and serial there: is it this handset?',
          `Write ${stock} to ${target}. Its hash first.`,
          'Start the system.',
        ],
      },
      {
        heading: 'When it starts over and over',
        steps: loopLadder(input, `Write ${stock} to ${target}`),
      },
      ...(commands.some(({ command }) => command !== null)
        ? [
            {
              heading: 'In your own words',
              commands: commands.flatMap(({ what, command }) => (command ? [{ what, command }] : [])),
            },
          ]
        : []),
      {
        heading: 'Do not',
        lines: [
          'Lock it again, whatever a guide’s last line says.',
          'Write an image of another build or of another handset that looks like it.',
          'Go on with a swollen, hot or wet battery: stop, and bring it to a licensed repairer.',
        ],
      },
    ],
  };
}

export interface SheetStep {
  readonly title: string;
  readonly todo: string;
  readonly dont: string;
  readonly minutes: string;
  readonly ifItEndsHere: string;
  readonly command: string | null;
}

/** A round to take along on paper. */
export function runSheet(input: PageInput, steps: readonly SheetStep[]): PlainDocument {
  return {
    title: `${input.title}: ${input.handset}`,
    about: headOf(input),
    sections: steps.map(({ title, todo, dont, minutes, ifItEndsHere, command }, i) => ({
      heading: `${i + 1}. ${title}`,
      lines: [
        todo,
        `Do not: ${dont}`,
        `Takes ${minutes}. If you stop after it: ${ifItEndsHere}`,
        ...(command === null ? [] : [`Command: ${command}`]),
      ],
    })),
  };
}

export interface ReportStep {
  readonly title: string;
  readonly state: string;
  readonly took: string;
  readonly by: string;
  readonly seen: readonly string[];
}

/** What was done, how long it took and what was seen. */
export function roundReport(
  input: PageInput,
  steps: readonly ReportStep[],
  claims: readonly { readonly claim: string; readonly seen: readonly string[] }[],
  overrides: readonly { readonly check: string; readonly reason: string }[],
): PlainDocument {
  return {
    title: `Report: ${input.title}, ${input.handset}`,
    about: headOf(input),
    sections: [
      {
        heading: 'Sign-off',
        table: {
          head: ['Claim', 'Evidence'],
          rows: claims.map(({ claim, seen }) => [claim, seen.join('; ') || 'none']),
        },
      },
      {
        heading: 'Steps',
        table: {
          head: ['Step', 'State', 'Took', 'By', 'Seen'],
          rows: steps.map(({ title, state, took, by, seen }) => [title, state, took, by, seen.join('; ')]),
        },
      },
      ...(overrides.length > 0
        ? [
            {
              heading: 'Checks that were overridden',
              table: {
                head: ['Check', 'Reason'],
                rows: overrides.map(({ check, reason }) => [check, reason]),
              },
            },
          ]
        : []),
    ],
  };
}

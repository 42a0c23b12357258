import { describe, expect, it } from 'vitest';
import { sheetFrom } from '../ways/sheet';
import { NO_WAYS } from '../ways/way-kinds';
import type { PageInput, PlainDocument } from './documents';
import { rescuePage, roundReport, runSheet, toMarkdown } from './documents';

/* Pages to print or keep: everything that was handed in is on them, and their tables are whole. */

const INPUT: PageInput = {
  title: 'Root again',
  handset: 'North gate',
  model: 'Hill 2',
  build: 'HC1.260905.007',
  slot: 'a',
  partition: 'init_boot',
  lane: 'One image, written once',
  madeAt: '5 Sep 2026',
  wayBack: '3 steps, about 3 min',
  images: [
    {
      what: 'stock image',
      partition: 'init_boot',
      slot: 'a',
      build: 'HC1.260905.007',
      file: { name: 'init_boot-HC1.260905.007.img', sha256: 'a'.repeat(64), sizeBytes: 8192 },
    },
    { what: 'stock image', partition: 'init_boot', slot: 'b', build: 'HC1.261005.001', file: null },
  ],
  commands: [
    { what: 'write', command: 'tool write {file}' },
    { what: 'erase', command: null },
  ],
  ways: NO_WAYS,
  writesIn: 'bootloader',
  ownRecovery: null,
  restsAfter: null,
};
const section = ({ sections }: PlainDocument, heading: string) =>
  sections.find((one) => one.heading === heading)!;
function wholeTables({ sections }: PlainDocument): void {
  for (const { heading, table } of sections)
    for (const row of table?.rows ?? []) expect(row.length, heading).toBe(table!.head.length);
}

describe('the rescue page', () => {
  const backTo = (ways = INPUT.ways, writesIn = INPUT.writesIn) =>
    section(rescuePage({ ...INPUT, ways, writesIn }), 'Back to stock').steps![0]!;
  it('names keys only where somebody has seen them on the model', () => {
    const keys = { 'keys-bootloader': { keys: ['power', 'home'], seconds: 5 } } as const;
    expect(backTo(sheetFrom(keys, 'seen done', 'you'))).toContain('Home and Power for 5 seconds');
    for (const ways of [NO_WAYS, sheetFrom(keys, 'guessed', 'its class')])
      expect(backTo(ways)).not.toMatch(/Home|Power|Volume/);
    const download = { 'keys-download': { keys: ['up', 'down'], seconds: 2, cable: true } } as const;
    expect(backTo(sheetFrom(download, 'only said', 'a page'), 'download')).toContain(
      'with the cable in: download mode',
    );
  });
  const page = rescuePage(INPUT);
  it('has each image with its hash and size, and each of the person’s own commands', () => {
    wholeTables(page);
    const [here, missing] = section(page, 'Files').table!.rows;
    expect(here).toEqual([
      'stock image',
      'init_boot on slot a',
      'HC1.260905.007',
      'init_boot-HC1.260905.007.img',
      '8192',
      'a'.repeat(64),
    ]);
    expect(missing!.slice(1, 3)).toEqual(['init_boot on slot b', 'HC1.261005.001']);
    expect(missing![3]).toMatch(/^missing/);
    expect(section(page, 'In your own words').commands).toEqual([
      { what: 'write', command: 'tool write {file}' },
    ]);
    const silent = rescuePage({ ...INPUT, commands: [INPUT.commands[1]!] });
    expect(section(silent, 'In your own words')).toBeUndefined();
  });
  it('writes the stock image where the round is, and ends with a start', () => {
    const { steps } = section(page, 'Back to stock');
    expect(steps!.filter((step) => step.includes('init_boot on slot a'))).toHaveLength(1);
    expect(steps!.at(-1)).toMatch(/^Start/);
    // into the bootloader, whose it is, the write, the start
    expect(steps!.join(' ')).toContain('init_boot-HC1.260905.007.img');
    const order = [/bootloader/, /serial/, /stock image/, /^Start/].map((words) =>
      steps!.findIndex((one) => words.test(one)),
    );
    expect(order).toEqual([0, 1, 2, 3]);
    // the file of another slot or partition is never the one, wherever it stands in the list
    const others = [...INPUT.images, { ...INPUT.images[0]!, partition: 'vendor_boot' }].map((image) => ({
      ...image,
      file: { name: `${image.partition}-of-${image.slot}.img`, sha256: 'b'.repeat(64), sizeBytes: 1 },
    }));
    for (const images of [others, others.toReversed()]) {
      const said = section(rescuePage({ ...INPUT, images }), 'Back to stock').steps!.join(' ');
      expect(said.match(/\w+-of-\w\.img/g)).toEqual(['init_boot-of-a.img']);
    }
    const one = rescuePage({ ...INPUT, slot: '' });
    expect(section(one, 'Back to stock').steps!.join(' ')).not.toContain('slot');
    expect(toMarkdown(one)).not.toMatch(/, slot $/m);
  });
  it('on a loop has the recovery with its uninstaller before any write, where one of one’s own lies there', () => {
    const ladder = (input: Partial<PageInput>) =>
      section(rescuePage({ ...INPUT, ...input }), 'When it starts over and over').steps!;
    const at = (steps: readonly string[], words: RegExp) => steps.findIndex((one) => words.test(one));
    expect(at(ladder({}), /uninstaller|failed starts/)).toBe(-1);
    const steps = ladder({ ownRecovery: 'Lifeboat 3.8', restsAfter: 3 });
    const order = [/two minutes/, /after 3 failed starts/, /Lifeboat 3\.8 opens.*uninstaller/, /^Write /];
    expect(order.map((words) => at(steps, words))).toEqual([0, 1, 2, 4]);
  });
  it('on a loop goes from what costs least to what costs most, and never over a wipe', () => {
    const { steps } = section(page, 'When it starts over and over');
    const at = (words: RegExp) => steps!.findIndex((step) => words.test(step));
    const order = [
      /^Wait/,
      /bootloader/,
      /stock image/,
      /other slot/,
      /whole build/,
      /refuse/,
      /repairer/,
    ].map(at);
    expect(order).toEqual([...order].sort((a, b) => a - b));
    expect(order).not.toContain(-1);
    expect(new Set(order).size).toBe(steps!.length);
  });
});

describe('the sheet and the report', () => {
  it('have a section a step, and a command where there is one', () => {
    const step = {
      title: 'Write it',
      todo: 'Write.',
      dont: 'Touch it.',
      minutes: '1 min',
      ifItEndsHere: 'It starts.',
    };
    const sheet = runSheet(INPUT, [
      { ...step, command: 'tool write' },
      { ...step, title: 'Start', command: null },
    ]);
    expect(sheet.sections.map(({ heading }) => heading)).toEqual(['1. Write it', '2. Start']);
    expect(sheet.sections.map(({ lines }) => lines!.length)).toEqual([4, 3]);
  });
  it('say what was overridden only where something was, and of a claim without evidence that it has none', () => {
    const report = (overrides: readonly { check: string; reason: string }[]) =>
      roundReport(
        INPUT,
        [{ title: 'Write it', state: 'done', took: '5 s', by: 'link', seen: ['a', 'b'] }],
        [{ claim: 'Root works', seen: [] }],
        overrides,
      );
    wholeTables(report([{ check: 'backup', reason: 'nothing on it' }]));
    expect(section(report([]), 'Sign-off').table!.rows).toEqual([['Root works', 'none']]);
    expect(section(report([]), 'Steps').table!.rows[0]!.at(-1)).toBe('a; b');
    expect(report([]).sections).toHaveLength(2);
    expect(report([{ check: 'backup', reason: 'x' }]).sections).toHaveLength(3);
  });
});

describe('Markdown', () => {
  it('leaves a command as it is copied, whatever stands in it', () => {
    const command = 'tool -s SERIAL write init_boot_a "my `odd` *file*.img"';
    const text = toMarkdown(rescuePage({ ...INPUT, commands: [{ what: 'Write', command }] }));
    expect(text.split('\n')).toContain(command);
    const lines = text.split('\n');
    expect(lines[lines.indexOf(command) - 1]).toMatch(/^`{3,}$/);
    const ticks = toMarkdown(rescuePage({ ...INPUT, commands: [{ what: 'W', command: 'a ````b' }] }));
    expect(ticks).toContain('\n`````\na ````b\n`````\n');
  });

  it('takes nothing that was handed in for markup', () => {
    const text = toMarkdown(rescuePage({ ...INPUT, handset: '# *North* | [x](y)\n## two' }));
    expect(text.split('\n').filter((line) => /^#+ /.test(line))).toHaveLength(
      1 + rescuePage(INPUT).sections.length,
    );
    expect(text).not.toContain('[x](y)');
  });
});

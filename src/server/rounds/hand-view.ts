import 'server-only';
import type { HandCommand, HandFile, HandView, ShownView } from '@/contracts/round-view';
import type { KeptImage } from '@/core/bench/bench';
import type { Observation } from '@/core/observe/expectation';
import { cleanLines } from '@/core/observe/clean-lines';
import { needsOf } from '@/core/observe/hold';
import type { RoundStep } from '@/core/rounds/round';
import { isLasting } from '@/core/rounds/answer';
import type { CommandVerb } from '@/core/steps/commands';
import { hashCommand, readOutCommand, writeInsideCommand } from '@/core/steps/commands';
import type { Deed } from '@/core/steps/deed';
import { CUSTOM_RECOVERY, DEEDS, DONE_HERE } from '@/core/steps/deeds';
import { outcomesOf } from '@/core/steps/outcomes';
import { STEP_KINDS } from '@/core/steps/step-table';
import { FAULT_WORDS, MISSING_NEXT, WHAT_WORDS } from '@/core/words/observe';
import { OUTCOME_WORDS } from '@/core/words/outcomes';
import { partitionName } from '@/core/words/step-evidence';
import { upperFirst } from '@/core/words/sentence';
import { readSecret } from '../repositories/handset-repository';
import { imageFileName } from '../services/image-view';
import type { OwnCommands } from '../services/vocabulary-service';
import { commandOf, hostToolOf, ownCommands } from '../services/vocabulary-service';
import type { RoundContext } from './round-context';
import { handTurns } from './hand-turns';
import { aboutStep, imageOf, sentImage, stockFor, stockOf } from './round-context';
import { packageParts } from './package-parts';
import { carried, expectationAt } from './shown';
import { mayHaveWritten } from './step-writes';

/* A step as it is done by hand: its file, its commands, what can be shown and said of it. */

/**
 * The person's own command for a step.
 * @param onSlot the one it writes to, where a step writes several
 * @param serial by default a word in its place: the serial is never put into what may be shown to others
 */
export function stepCommand(
  context: RoundContext,
  step: RoundStep,
  own: OwnCommands,
  serial = 'SERIAL',
  onSlot: string | null = null,
): string | null {
  const about = aboutStep(context, step);
  const slot = onSlot ?? about.slot;
  const image = imageOf(context, step);
  // what a recovery was put into is another image than root's
  const stock = image?.recoverySha256
    ? stockOf(context, image.partition, step.planned.build)
    : stockFor(context, step);
  const partition = CUSTOM_RECOVERY.includes(step.key)
    ? about.recoveryHome
    : (image?.partition ?? about.partition);
  return commandOf(own, STEP_KINDS[step.key].verb, {
    partition,
    slot: step.key === 'other-slot' ? about.otherSlot : slot,
    target: slot === '' ? partition : `${partition}_${slot}`,
    file: image ? imageFileName(image) : 'IMAGE',
    stock: stock ? imageFileName(stock) : 'STOCK.img',
    facts: 'facts.json',
    path: ON_HANDSET,
    serial,
    code: 'CODE',
    address: 'HOST:PORT',
  });
}

/** A folder on the handset that both a computer and root can use. */
const ON_HANDSET = '/data/local/tmp';

function fileOf(image: KeptImage | null, { shell }: OwnCommands): HandFile | null {
  if (!image) return null;
  const name = imageFileName(image);
  return {
    sha256: image.sha256,
    name,
    sizeBytes: image.sizeBytes,
    hashCommand: hashCommand(shell, name),
  };
}

/** Reads the part of a partition that an image fills, and shows its hash. */
const readOut = (context: RoundContext, step: RoundStep, image: KeptImage): HandCommand[] =>
  (DEEDS[step.key].writes ? mayHaveWritten(context, step) : rootSlot(context, step)).map((one) => ({
    does: `Show the hash of what lies on ${partitionName(one)}`,
    where: 'in a root shell on the handset',
    command: readOutCommand(partitionName(one), image.sizeBytes),
  }));

const rootSlot = ({ rootPartition, slotCount }: RoundContext, { planned }: RoundStep) =>
  rootPartition === null ? [] : [{ partition: rootPartition, slot: slotCount === 2 ? planned.slot : null }];

/** Written from inside: the file goes onto the handset, and root puts it on its partition. */
function insideCommands(
  context: RoundContext,
  step: RoundStep,
  image: KeptImage,
  own: OwnCommands,
  serial: string,
): HandCommand[] {
  const file = imageFileName(image);
  const push = commandOf(own, 'push', { file, path: ON_HANDSET, serial });
  return [
    ...onHost(context, 'Copy it onto the handset', push),
    ...mayHaveWritten(context, step).map((one): HandCommand => ({
      does: `Write it to ${partitionName(one)}`,
      where: 'in a root shell on the handset',
      command: writeInsideCommand(`${ON_HANDSET}/${file}`, partitionName(one)),
    })),
    ...readOut(context, step, image),
  ];
}

/** Root is asked for in a shell, and what runs is read out by it. */
function rootCommands(context: RoundContext, step: RoundStep): HandCommand[] {
  const { shown } = DEEDS[step.key];
  const patched = shown?.image ? sentImage(context, step, shown.image) : null;
  return [
    { does: 'Show which user you are', where: 'in a shell on the handset', command: 'id' },
    {
      does:
        shown?.as === 'prove-stock'
          ? 'Ask for root: it has to be refused, without a question on the screen'
          : 'Ask for root, and allow it on the handset; then show which user you are again',
      where: 'in a shell on the handset',
      command: 'su -c id',
    },
    ...(patched ? readOut(context, step, patched) : []),
  ];
}

/** The person's own words for where a step leads to, as they show it. */
function lookVerb({ shown, writes }: Deed): CommandVerb | undefined {
  if (shown?.mode === 'bootloader' && !writes) return 'read variables';
  return shown?.as === 'enter' || shown?.as === 'list' ? 'list' : undefined;
}

/** Where the tool runs: a second handset has a shell of its own kind. */
const hasSecond = ({ round }: Pick<RoundContext, 'round'>) => round.plan.limits?.secondHandset === true;
const hostOf = (context: Pick<RoundContext, 'round'>) =>
  hasSecond(context) ? 'on the second handset' : 'on this computer';
const wordsAt = async (context: Pick<RoundContext, 'round'>): Promise<OwnCommands> => {
  const own = await ownCommands();
  return hasSecond(context) ? { ...own, shell: 'posix' } : own;
};
const onHost = (context: Pick<RoundContext, 'round'>, does: string, command: string | null): HandCommand[] =>
  command === null ? [] : [{ does, where: hostOf(context), command }];

/** The command of a step; one a slot where it writes to both. */
function doIt(context: RoundContext, step: RoundStep, own: OwnCommands, serial: string): HandCommand[] {
  const writes = DEEDS[step.key].writes ? mayHaveWritten(context, step) : [];
  return writes.length < 2
    ? onHost(context, 'Do it', stepCommand(context, step, own, serial))
    : writes.flatMap((one) =>
        onHost(context, `Write ${partitionName(one)}`, stepCommand(context, step, own, serial, one.slot)),
      );
}

/** Each partition of the package that root installs: what lies there shows its hash. */
const packageCommands = (context: RoundContext, { planned }: RoundStep): HandCommand[] =>
  packageParts(context).map(({ partition, image }) => {
    const name = partitionName({ partition, slot: context.slotCount === 2 ? planned.slot : null });
    return {
      does: `Show the hash of what lies on ${name}`,
      where: 'in a root shell on the handset',
      command: readOutCommand(name, image.sizeBytes),
    };
  });

/** What a person types at a step, and where. */
export function commandsOf(
  context: RoundContext,
  step: RoundStep,
  own: OwnCommands,
  serial: string,
): HandCommand[] {
  const deed = DEEDS[step.key];
  if (deed.shown?.as === 'prove-root' || deed.shown?.as === 'prove-stock') return rootCommands(context, step);
  if (step.key === 'carry-over')
    return carried(context).flatMap((image) =>
      onHost(
        context,
        `Show the hash of ${imageFileName(image)}`,
        hashCommand(own.shell, imageFileName(image)),
      ),
    );
  if (deed.shown?.as === 'read-back') return packageCommands(context, step);
  if (deed.writes?.what === 'whole build') return [];
  if (deed.writes && deed.shown?.mode === 'system') {
    const image = imageOf(context, step);
    return image ? insideCommands(context, step, image, own, serial) : [];
  }
  return [
    ...doIt(context, step, own, serial),
    ...onHost(
      context,
      'Show what it says there',
      commandOf(own, lookVerb(deed), { serial, address: 'HOST:PORT' }),
    ),
  ];
}

/** The write that a mode is gone into for. */
function aheadOf(
  context: RoundContext,
  step: RoundStep,
  own: OwnCommands,
  serial: string,
): HandView['ahead'] {
  if (DEEDS[step.key].shown?.as !== 'enter') return null;
  const next = context.steps
    .slice(context.steps.findIndex(({ id }) => id === step.id) + 1)
    .find(({ key }) => DEEDS[key].writes !== null || DEEDS[key].shown?.as === 'enter');
  if (!next || DEEDS[next.key].writes === null) return null;
  return {
    title: STEP_KINDS[next.key].text(aboutStep(context, next)).title,
    file: fileOf(imageOf(context, next), own),
    commands: commandsOf(context, next, own, serial),
  };
}

/** When the running system said last what it runs. */
const readAtOf = ({ known }: RoundContext, { key }: RoundStep): number | null =>
  key === 'read-facts' ? (known.resolved.find((fact) => fact.key === 'fingerprint')?.at ?? null) : null;

/** @returns null at a step that is done in Eterno itself */
export async function handView(
  context: RoundContext,
  step: RoundStep,
  serial = 'SERIAL',
): Promise<HandView | null> {
  if (DONE_HERE.includes(step.key)) return null;
  const [own, expectation] = [await wordsAt(context), await expectationAt(context, step)];
  const commands = commandsOf(context, step, own, serial);
  const turns = handTurns(context, step, own, serial);
  const usesTool = turns.length > 0 || commands.some(({ where }) => where === hostOf(context));
  return {
    file: fileOf(imageOf(context, step), own),
    files: step.key === 'carry-over' ? carried(context).map((image) => fileOf(image, own)!) : [],
    commands,
    turns,
    ownWordsMissing: usesTool && context.handset.link === 'hand' && hostToolOf(own) === 'own',
    ahead: aheadOf(context, step, own, serial),
    shows: expectation ? [...new Set(needsOf(expectation).map((what) => MISSING_NEXT[what]))] : [],
    outcomes: outcomesOf(DEEDS[step.key]).map((id) => ({ id, words: OUTCOME_WORDS[id] })),
    lasting: isLasting(step),
    readAt: readAtOf(context, step),
  };
}

/** The same commands with the serial in them, for a person who asks for it. */
export async function commandsWithSerial(context: RoundContext, step: RoundStep): Promise<HandCommand[]> {
  const serial = await readSecret(context.handset.id, 'serial');
  return commandsOf(context, step, await wordsAt(context), serial ?? 'SERIAL');
}

/** A serial is private: it is shown by its end. */
const shortSerial = (serial: string) => `…${serial.slice(-3)}`;

/** What was pasted, line by line, with what each line was understood as. */
export function shownView(observation: Observation, text: string): ShownView {
  const { verdict, met, differs, fault, harmless, unknown, missing, next, written = [] } = observation;
  const printed = new Map(cleanLines(text).map((line) => [line.n, line.text]));
  const line = (n: number, mark: ShownView['lines'][number]['mark'], says: string) => ({
    line: n,
    text: (printed.get(n) ?? '').slice(0, LINE_CHARACTERS),
    mark,
    says,
  });
  const named = (what: keyof typeof WHAT_WORDS, seen: string) =>
    `${upperFirst(WHAT_WORDS[what])} ${what === 'serial' ? shortSerial(seen) : seen}`;
  const lines = [
    ...met.map((one) => line(one.line, 'met', named(one.what, one.seen))),
    ...written.map((one) => line(one.line, 'met', `${partitionName(one)} is written`)),
    ...differs.map((one) =>
      line(
        one.line,
        'differs',
        `${named(one.what, one.seen)}, expected ${one.what === 'serial' ? 'this handset’s own' : one.expected}`,
      ),
    ),
    ...(fault ? [line(fault.line, 'fault', FAULT_WORDS[fault.id])] : []),
    ...harmless.map((one) => line(one.line, 'harmless', one.why)),
    ...unknown.slice(0, UNKNOWN_LINES).map((n) => line(n, 'unknown', 'Not understood, and not counted.')),
  ];
  return {
    verdict,
    lines: lines.sort((a, b) => a.line - b.line),
    written: written.map(partitionName),
    missing: missing.map((what) => MISSING_NEXT[what]),
    next,
  };
}

const LINE_CHARACTERS = 120;
/** So many lines that were not understood are shown. */
const UNKNOWN_LINES = 5;

import { WHOLE_WRITES } from '../planning/limits';
import type { HostTool } from '../rounds/host-tool';
import { hostToolWords } from '../rounds/host-tool';
import type { StepKey } from '../rounds/step-kind';
import type { Check } from './check';
import { checkOf } from './check';
import type { WriteGateInput } from './write-gates';
import { writeGates } from './write-gates';

/* Which checks stand before which step of a round (docs/method.md, "Gates"). */

export interface StepGateInput {
  readonly write: WriteGateInput;
  /** `none`, `snapshotted`, `merging`, or null where it was never read. */
  readonly snapshot: string | null;
  /** (a) The bootloader's fuse on the handset, and the level that the build brings; null where not known. */
  readonly fuse: number | null;
  readonly buildLevel: number | null;
  /** Images of the whole build that are not in the vault. */
  readonly wholeMissing: readonly string[];
  readonly backupDays: number | null;
  readonly backupMaxDays: number;
  /** Why nothing on it has to be kept, where the person said so in this round. */
  readonly nothingToKeep: string | null;
  readonly unlockSwitch: string | null;
  /** What of the slots is not the maker's own of one build, in words; what was never known counts. */
  readonly notStock: readonly string[];
  readonly startedUnlocked: boolean;
  /** (b) The index stored in the handset and the build's own; null where not known. */
  readonly storedIndex: number | null;
  readonly buildIndex: number | null;
  /** The package that goes by sideload, against this handset. */
  readonly packageFits: { readonly verdict: string; readonly reason: string } | null;
  /** Who writes from outside: Eterno's own link or command, or a tool of the person's, as it names itself; null where it never did. */
  readonly tool: 'own' | HostTool | null;
  /** It was listed, in this round, in the mode that it is written in. */
  readonly listed: boolean;
}

/** Erasing, a second update or another slot over an update that waits or merges leaves no system. */
function noUpdate({ snapshot }: StepGateInput, merging: boolean): Check {
  const busy = snapshot === 'merging' || (!merging && snapshot !== null && snapshot !== 'none');
  return checkOf(
    'snapshot',
    merging ? 'No update is merging' : 'No update waits or merges',
    snapshot === null ? null : !busy,
    snapshot === null ? 'Whether an update waits was never read.' : busy ? `Its update is ${snapshot}.` : 'None, as last read.',
  );
}

function fuseGate({ fuse, buildLevel }: StepGateInput): Check {
  const known = fuse !== null && buildLevel !== null;
  return checkOf(
    'fuse',
    'The bootloader it writes is not below the fuse',
    known ? buildLevel >= fuse : null,
    known
      ? `The handset is at ${fuse}, the build at ${buildLevel}${buildLevel >= fuse ? '.' : ': it would never start again.'}`
      : 'It has to be known before a bootloader is written: below it no screen and no way in.',
  );
}

const wholeGate = ({ wholeMissing }: StepGateInput) =>
  checkOf(
    'whole',
    'Every image of the build is in the vault',
    wholeMissing.length === 0,
    wholeMissing.length === 0 ? 'All of one build, each with its hash.' : `Missing: ${wholeMissing.join(', ')}.`,
  );

function backupGate({ backupDays, backupMaxDays, nothingToKeep }: StepGateInput): Check {
  const fresh = backupDays !== null && backupDays <= backupMaxDays;
  return checkOf(
    'backup',
    'What it holds lies somewhere else',
    fresh || nothingToKeep !== null ? true : null,
    fresh
      ? `The last backup off the handset is ${backupDays} days old; ${backupMaxDays} are the most.`
      : nothingToKeep !== null
        ? `You said in this round that nothing has to be kept: “${nothingToKeep}”.`
        : backupDays === null
          ? 'No backup off the handset is on record.'
          : `The last backup off the handset is ${backupDays} days old, and ${backupMaxDays} are the most: nobody knows where what came since then lies.`,
  );
}

function lockGates(input: StepGateInput): Check[] {
  const { notStock, startedUnlocked, unlockSwitch, storedIndex, buildIndex } = input;
  return [
    checkOf(
      'makers-own',
      'Every slot holds the maker’s own images of one build',
      notStock.length === 0,
      notStock.length === 0
        ? 'Each was written from the vault in stock, or read back as such.'
        : `Not so: ${notStock.join('; ')}. Locked, it would never start again.`,
    ),
    checkOf(
      'started',
      'It was started once while unlocked',
      startedUnlocked,
      startedUnlocked ? 'Seen in this round.' : 'Not seen: a build that does not start could not be mended once locked.',
    ),
    checkOf(
      'switch-seen',
      'Its unlock switch was seen on',
      unlockSwitch === null ? null : unlockSwitch === 'on',
      unlockSwitch === null
        ? 'The switch was never read.'
        : `The switch is ${unlockSwitch}${unlockSwitch === 'on' ? ': a way back stays open.' : ': locked, nothing could be mended.'}`,
    ),
    checkOf(
      'index',
      'The build is not below the stored rollback index',
      storedIndex === null || buildIndex === null ? null : buildIndex >= storedIndex,
      storedIndex === null || buildIndex === null
        ? 'The stored index was never read; a build that was started from this handset while locked is not below it.'
        : `The build is at ${buildIndex}, the handset at ${storedIndex}.`,
    ),
  ];
}

/** The host's end of the cable: the tool and which copy of it, port, cable and driver. */
function hostGates({ tool, listed }: StepGateInput): Check[] {
  return [
    checkOf(
      'tool',
      'The tool that writes is known, and which copy of it',
      tool === null ? null : true,
      tool === null
        ? 'Your own commands are shown here, and their tool never said its version: let it print that, and keep it in the Store.'
        : tool === 'own'
          ? 'Eterno writes itself.'
          : hostToolWords(tool),
    ),
    checkOf(
      'listed',
      'The handset is listed in the mode that it is written in',
      listed ? true : null,
      listed
        ? 'Seen in this round: port, cable and driver work.'
        : 'Not seen in this round. Not listed: replug, another port, its driver, and whatever else holds it.',
    ),
  ];
}

const pick = (checks: readonly Check[], ids: readonly string[]) => checks.filter((check) => ids.includes(check.id));
const IMAGE = [
  'image-build',
  'image-partition',
  'root-sources',
  'sources',
  'image-proof',
  'stock-kept',
  'unlocked',
  'slot',
  'room',
  'kit',
  'battery',
];
/** A write by root from inside needs neither the bootloader's word nor its lock; whether it fits is read back. */
const INSIDE = ['image-build', 'image-partition', 'root-sources', 'sources', 'image-proof', 'stock-kept', 'kit', 'battery'];
/** A recovery of the person's own belongs to no build: it is judged by its own bytes, and by where a recovery lives. */
const RECOVERY = ['recovery-image', 'recovery-handset', 'recovery-home', 'sources'];
const FROM_OUTSIDE = ['sources', 'stock-kept', 'unlocked', 'slot', 'battery'];

/** The checks before a step, in the order a person would ask them; none for what changes nothing. */
export function stepGates(key: StepKey, input: StepGateInput): Check[] {
  const write = writeGates(input.write);
  switch (key) {
    case 'write-root':
    case 'start-once':
      return [...pick(write, IMAGE), ...hostGates(input)];
    case 'write-stock':
      return [
        ...pick(
          write,
          IMAGE.filter((id) => id !== 'kit'),
        ),
        ...hostGates(input),
      ];
    case 'write-recovery':
      return [...pick(write, [...RECOVERY, 'stock-kept', 'unlocked', 'slot', 'room', 'battery']), ...hostGates(input)];
    case 'write-stock-recovery':
      return [
        ...pick(write, ['image-build', 'image-partition', 'sources', 'stock-kept', 'unlocked', 'slot', 'room', 'battery']),
        ...hostGates(input),
      ];
    case 'recovery-inside':
      return pick(write, [...RECOVERY, 'stock-kept', 'room', 'battery']);
    case 'recovery-once':
      // nothing is written: whether it has a partition of its own does not matter
      return [...pick(write, ['recovery-image', 'recovery-handset', 'sources', 'unlocked', 'battery']), ...hostGates(input)];
    case 'older-bootloader':
      return [...pick(write, ['sources', 'unlocked', 'battery']), wholeGate(input), fuseGate(input), noUpdate(input, false), ...hostGates(input)];
    case 'wipe-keep-storage':
    case 'factory-reset':
    case 'format-data':
      return [backupGate(input), noUpdate(input, false)];
    case 'root-zip':
    case 'zip-inside':
      return pick(write, ['root-sources', 'sources', 'stock-kept', 'kit', 'battery']);
    case 'make-lasting':
      return pick(write, INSIDE);
    case 'stock-back':
      return pick(
        write,
        INSIDE.filter((id) => id !== 'kit'),
      );
    case 'patch-other-slot':
      // its stock image is read from the slot itself: nothing is known of it before
      return pick(write, ['root-sources', 'sources', 'kit', 'battery']);
    case 'take-update':
    case 'take-full-update':
      return [...pick(write, ['sources', 'stock-kept', 'battery']), noUpdate(input, false)];
    case 'write-build':
    case 'write-build-both':
    case 'write-build-patched':
    case 'write-set':
    case 'write-set-patched':
      return [...pick(write, FROM_OUTSIDE), wholeGate(input), fuseGate(input), noUpdate(input, false), ...hostGates(input)];
    case 'write-set-wipe':
      return [...pick(write, FROM_OUTSIDE), wholeGate(input), fuseGate(input), noUpdate(input, false), backupGate(input), ...hostGates(input)];
    case 'sideload':
      return [
        ...pick(write, ['sources', 'battery']),
        checkOf(
          'package',
          'A package of the wanted build for this very handset is at hand',
          input.packageFits === null ? false : input.packageFits.verdict !== 'other handset' && input.packageFits.verdict !== 'other variant',
          input.packageFits?.reason ?? 'None was opened yet.',
        ),
        noUpdate(input, false),
      ];
    case 'unlock':
      return [
        ...pick(write, ['battery']),
        backupGate(input),
        noUpdate(input, false),
        checkOf(
          'switch',
          'Its unlock switch is on',
          input.unlockSwitch === null ? null : input.unlockSwitch === 'on',
          `The switch is ${input.unlockSwitch ?? 'not read yet'}.`,
        ),
      ];
    case 'lock':
      return [...pick(write, ['battery']), ...lockGates(input), noUpdate(input, false), backupGate(input)];
    case 'other-slot':
      return [noUpdate(input, true)];
    default:
      return [];
  }
}

/** Steps that have checks before them. */
export const GATED: readonly StepKey[] = [
  'write-root',
  'start-once',
  'write-stock',
  'write-recovery',
  'write-stock-recovery',
  'recovery-inside',
  'recovery-once',
  'older-bootloader',
  'wipe-keep-storage',
  'factory-reset',
  'format-data',
  'root-zip',
  'zip-inside',
  'make-lasting',
  'stock-back',
  'patch-other-slot',
  'take-update',
  'take-full-update',
  ...WHOLE_WRITES,
  'sideload',
  'unlock',
  'lock',
  'other-slot',
];

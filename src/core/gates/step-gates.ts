import { DEEDS } from '../steps/deeds';
import type { GateId } from '../steps/deed';
import type { HostTool } from '../steps/host-tool';
import { hostToolWords } from '../steps/host-tool';
import type { StepKey } from '../steps/step-kind';
import type { Check } from './check';
import { checkOf } from './check';
import type { WriteGateInput } from './write-gates';
import { WRITE_GATES } from './write-gates';

/* Every gate by its id, and the checks before a step (docs/method.md, "Gates"). */

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

type Gate = (input: StepGateInput) => Check;

const WAITS = 'Whether an update waits was never read.';

/** What has to do with one image asks less than a step does. */
const ofWrites = Object.fromEntries(
  Object.entries(WRITE_GATES).map(([id, gate]) => [id, ({ write }: StepGateInput) => (gate as (input: WriteGateInput) => Check)(write)]),
) as Record<keyof typeof WRITE_GATES, Gate>;

export const GATES: Readonly<Record<GateId, Gate>> = {
  ...ofWrites,
  // erasing, unlocking, a second update over one that waits or merges leaves no system
  snapshot: ({ snapshot }) =>
    checkOf(
      'snapshot',
      'No update waits or merges',
      snapshot === null ? null : snapshot === 'none',
      snapshot === null ? WAITS : snapshot === 'none' ? 'None, as last read.' : `Its update is ${snapshot}.`,
    ),
  merging: ({ snapshot }) =>
    checkOf(
      'merging',
      'No update is merging',
      snapshot === null ? null : snapshot !== 'merging',
      snapshot === null ? WAITS : snapshot === 'merging' ? 'Its update is merging.' : 'None, as last read.',
    ),
  fuse: ({ fuse, buildLevel }) => {
    const known = fuse !== null && buildLevel !== null;
    return checkOf(
      'fuse',
      'The bootloader it writes is not below the fuse',
      known ? buildLevel >= fuse : null,
      known
        ? `The handset is at ${fuse}, the build at ${buildLevel}${buildLevel >= fuse ? '.' : ': it would never start again.'}`
        : 'It has to be known before a bootloader is written: below it no screen and no way in.',
    );
  },
  whole: ({ wholeMissing }) =>
    checkOf(
      'whole',
      'Every image of the build is in the vault',
      wholeMissing.length === 0,
      wholeMissing.length === 0 ? 'All of one build, each with its hash.' : `Missing: ${wholeMissing.join(', ')}.`,
    ),
  backup: ({ backupDays, backupMaxDays, nothingToKeep }) => {
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
  },
  'makers-own': ({ notStock }) =>
    checkOf(
      'makers-own',
      'Every slot holds the maker’s own images of one build',
      notStock.length === 0,
      notStock.length === 0
        ? 'Each was written from the vault in stock, or read back as such.'
        : `Not so: ${notStock.join('; ')}. Locked, it would never start again.`,
    ),
  started: ({ startedUnlocked }) =>
    checkOf(
      'started',
      'It was started once while unlocked',
      startedUnlocked,
      startedUnlocked ? 'Seen in this round.' : 'Not seen: a build that does not start could not be mended once locked.',
    ),
  switch: ({ unlockSwitch }) =>
    checkOf(
      'switch',
      'Its unlock switch is on',
      unlockSwitch === null ? null : unlockSwitch === 'on',
      `The switch is ${unlockSwitch ?? 'not read yet'}.`,
    ),
  'switch-seen': ({ unlockSwitch }) =>
    checkOf(
      'switch-seen',
      'Its unlock switch was seen on',
      unlockSwitch === null ? null : unlockSwitch === 'on',
      unlockSwitch === null
        ? 'The switch was never read.'
        : `The switch is ${unlockSwitch}${unlockSwitch === 'on' ? ': a way back stays open.' : ': locked, nothing could be mended.'}`,
    ),
  index: ({ storedIndex, buildIndex }) => {
    const known = storedIndex !== null && buildIndex !== null;
    return checkOf(
      'index',
      'The build is not below the stored rollback index',
      known ? buildIndex >= storedIndex : null,
      known
        ? `The build is at ${buildIndex}, the handset at ${storedIndex}.`
        : 'The stored index was never read; a build that was started from this handset while locked is not below it.',
    );
  },
  package: ({ packageFits }) =>
    checkOf(
      'package',
      'A package of the wanted build for this very handset is at hand',
      packageFits === null ? false : packageFits.verdict !== 'other handset' && packageFits.verdict !== 'other variant',
      packageFits?.reason ?? 'None was opened yet.',
    ),
  // the host's end of the cable: the tool and which copy of it, port, cable and driver
  tool: ({ tool }) =>
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
  listed: ({ listed }) =>
    checkOf(
      'listed',
      'The handset is listed in the mode that it is written in',
      listed ? true : null,
      listed
        ? 'Seen in this round: port, cable and driver work.'
        : 'Not seen in this round. Not listed: replug, another port, its driver, and whatever else holds it.',
    ),
};

/** The checks before a step, in the order a person would ask them; none for what changes nothing. */
export const stepGates = (key: StepKey, input: StepGateInput): Check[] => DEEDS[key].gates.map((id) => GATES[id](input));

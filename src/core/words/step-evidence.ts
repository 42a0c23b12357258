import type { BackupPart } from './backups';
import { lackWords } from './backups';
import type { FaultId, What } from './observe';
import { FAULT_WORDS, WHAT_WORDS } from './observe';
import type { OutcomeId } from './outcomes';
import { OUTCOME_WORDS } from './outcomes';
import { lowerFirst } from './sentence';

/* What the evidence of a round's steps says. Plain English; nothing reads it back. */

export const BY_CABLE = 'done over this computer’s cable, by a page of the browser';
/** What it comes up to only the person sees. */
export const sentToStart = (sha256: string) =>
  `sent to be started from memory: ${sha256}; nothing was written`;
export const WRITTEN_BY = {
  'every mode': 'written over the link',
  'its bootloader': 'written over this computer’s cable, by a page of the browser',
} as const;
export const CODE_CAME = 'the code came by mail and is kept with the private values';
export const OTHER_CODE = 'another code was given: unlock it again';
export const RESCUE_PAGE = 'the rescue page was downloaded';
export const SIGNED_OFF = 'signed off';
export const CUT_SHORT = 'a write was cut short';
export const ENDED_IN_WRITE = 'Eterno ended in the middle of a write';
export const STARTED_WITH_IT = 'started with it in a round';
export const NAMED_COMING_BACK = 'named while modules came back';
export const ROOT_PROVED_IN_ROUND = 'root was proved in a round';

export const ROOT_AT_CLOSING = {
  yes: 'proved in this round',
  no: 'only what was said, not proved',
  gone: 'returned to stock in this round',
} as const;

/** "init_boot_a". */
export const partitionName = ({
  partition,
  slot,
}: {
  readonly partition: string;
  readonly slot: string | null;
}) => (slot === null ? partition : `${partition}_${slot}`);

export const said = (words: string) => `said: ${words}`;
export const answered = (what: string, words: string) => `${what}: ${words}`;
export const backedUp = (what: string, note: string) =>
  `backed up off the handset: ${what}${note === '' ? '' : `, ${note}`}`;
export const BACKUP_WHOLE = 'a whole set, as was said';
export const backupLacks = (lacking: readonly BackupPart[]) => `not in it: ${lackWords(lacking)}`;
export const appSeen = (name: string, how: 'works' | 'stopped') =>
  how === 'works' ? `${name}: works` : `${name}: stopped working`;
export const nothingKept = (why: string) => `nothing backed up: “${why}”`;
export const noRescuePage = (why: string) => `without a rescue page: “${why}”`;
export const overridden = (check: string, reason: string) => `${check}: overridden, “${reason}”`;
export const checked = (check: string, evidence: string) => `${check}: ${evidence}`;
export const startedWith = (modules: readonly string[]) =>
  `said: it started with ${modules.join(', ') || 'none'} on`;
export const staysOff = (modules: readonly string[]) =>
  `stays off, because it loops on this build: ${modules.join(', ')}`;

/** A step that went wrong: what it wrote before, what is in doubt, or that nothing was written. */
export function failed(
  why: string,
  written: readonly string[],
  doubt: readonly string[],
  writes: boolean,
): string[] {
  const before = written.length > 0 ? [`written before it went wrong: ${written.join(', ')}`] : [];
  if (doubt.length > 0)
    return [
      ...before,
      `the write was cut short, ${doubt.join(', ')} is unknown until it is written again: ${why}`,
    ];
  return [...before, writes && written.length === 0 ? `nothing was written: ${why}` : why];
}

export const interrupted = (doubt: readonly string[]) =>
  doubt.length > 0
    ? `Eterno ended in the middle of the write: ${doubt.join(', ')} is unknown until it is read or written again`
    : 'Eterno ended in the middle of this step';

export const EVERY_IMAGE = 'every image of this build is in the vault';
export const stockInVault = (partition: string) => `the stock ${partition} of this build is in the vault`;
export const imageInVault = (partition: string, sha256: string) => `${partition} ${sha256} is in the vault`;
export const exactlyThisBuild = (fileName: string) => `${fileName} is exactly this build`;
export const recoveryPutIn = (partition: string, sha256: string) =>
  `${partition} with the recovery in it: ${sha256}, proved here against its stock image`;
export const patchedBy = (kit: string, sha256: string) =>
  `patched by ${kit}, proved again by the server: ${sha256}`;

export const OWN_SERIAL = 'the serial is this handset’s';
export const SAID_TO_BE_WRITTEN = 'said to be written by hand';
export const READ_BACK_BY_HAND = 'read back by hand, with the hash of what was sent';
export const AS_DESCRIBED = 'said: it went as described';
export const COULD_NOT_TELL = 'said: could not tell';
export const SAID_TO_GO_WRONG = 'it did not go as described, by what was said';
export const NOBODY_COULD_TELL = 'nobody could tell how the write ended';
export const STILL_SO = 'said: still as it was read before';
/** What was shown and met the step: "build HC1.260905.007, slot a". */
export const shownMet = (met: readonly { readonly what: What; readonly seen: string }[]) =>
  `shown: ${met.map(({ what, seen }) => `${WHAT_WORDS[what]} ${seen}`).join(', ')}`;
export const NOT_REFUSED_BEFORE = 'and not that this shell was another user before';
/** What was shown and is not as expected. */
export const shownDiffers = ({
  what,
  seen,
  expected,
}: {
  readonly what: What;
  readonly seen: string;
  readonly expected: string;
}) => `shown: ${WHAT_WORDS[what]} ${seen}, expected ${expected}`;
/** A start that came up as something else. */
export const startedOtherwise = (
  differs: readonly { readonly what: What; readonly seen: string; readonly expected: string }[],
) =>
  `It started, and not as planned: ${differs
    .map(({ what, seen, expected }) =>
      what === 'serial' ? 'another serial' : `${WHAT_WORDS[what]} ${seen}, expected ${expected}`,
    )
    .join('; ')}.`;
export const OTHER_SERIAL = 'shown: another handset’s serial';
export const shownFault = (fault: FaultId) => `its tool said: ${lowerFirst(FAULT_WORDS[fault])}`;
export const NOT_UNDERSTOOD = 'something was pasted that shows nothing about this step';
export const wentOtherwise = (outcome: OutcomeId, note: string) =>
  `said: ${lowerFirst(OUTCOME_WORDS[outcome])}${note === '' ? '' : ` “${note}”`}`;

export const DOES_NOT_START = 'said: it does not start';
export const STARTS_AGAIN = 'it starts again: what root it has was not read yet';
export const ROOTED_AS_SAID = 'said: it is rooted';
export const RESTARTED_AS_SAID = 'it restarted before its time, as was said';
export const restartedEarly = (build: string | null) =>
  `it restarted before its time${build === null ? '' : ` and runs ${build}`}`;

export const LOOPS = 'It starts over and over, as you said.';
export const LOOPS_SEEN =
  'It starts over and over: it came on the cable again and again, and its system never did.';

export const readElsewhere = (partition: string, sha256: string) =>
  `${partition} was read back outside this round: ${sha256}`;

export const UNTIL_RESTART = 'it was let in from inside, and nobody has noted that it outlives a restart';

/** The tamper record as a bootloader says it; null where it does not. */
export interface TamperReading {
  readonly fuse: string | null;
  readonly writes: string | null;
}

const changedWords = (what: string, before: string | null, after: string | null) =>
  before === null && after === null
    ? []
    : [
        before === after
          ? `${what} still ${after}`
          : `${what} ${before ?? 'not read'} before, ${after ?? 'not read'} now`,
      ];

export const tamperRecord = (before: TamperReading, after: TamperReading) =>
  `tamper record: ${[...changedWords('fuse', before.fuse, after.fuse), ...changedWords('write counter', before.writes, after.writes)].join(', ')}`;

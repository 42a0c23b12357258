import { FROM_OUTSIDE } from '../steps/deeds';
import type { StepKey } from '../steps/step-key';

/*
 * What a person's own tool answered, judged at the step it belongs to (docs/method.md, "Reading what a tool
 * printed").
 */

export interface OutputVerdict {
  readonly verdict: 'success' | 'harmless' | 'fault' | 'unknown';
  readonly says: string;
  readonly next: string;
  /** The line that decided it. */
  readonly line: string | null;
}

interface Rule {
  readonly when: RegExp;
  /** Steps it counts at; everywhere where absent. */
  readonly at?: readonly StepKey[];
  readonly verdict: OutputVerdict['verdict'];
  readonly says: string;
  readonly next: string;
}

const WRITING = FROM_OUTSIDE;
const AGAIN = 'Replug, another cable or port, then the same step again.';

/** Faults come first: a tool that failed often says a line before that it went well. */
const RULES: readonly Rule[] = [
  {
    when: /rollback|anti.?roll|below (the )?fuse|fuse.*(lower|older)|older than (the )?(installed|current)|downgrade|timestamp/i,
    verdict: 'fault',
    says: 'It refuses an older build.',
    next: 'Do not force it. Look at the floors under “Before a wipe”; a known way down is needed.',
  },
  {
    when: /signature|verification (failed|error)|not signed/i,
    at: ['sideload', 'write-set', 'write-set-patched', 'write-set-wipe', 'root-zip'],
    verdict: 'fault',
    says: 'It does not accept who signed the package.',
    next: 'Hold the package’s hash against its source. A stock recovery takes its maker’s packages only.',
  },
  {
    when: /\b(device|bootloader|it) is locked|locked (state|device)|not allowed in lock/i,
    verdict: 'fault',
    says: 'The bootloader is locked.',
    next: 'Nothing was written. See what unlocking needs, and that it erases.',
  },
  {
    when: /no such partition|partition .*(not found|doesn.?t exist)|there is no partition/i,
    verdict: 'fault',
    says: 'This handset has no partition of that name in this mode.',
    next: 'Look at the slot in the name and at the mode: logical partitions are written from user-space flashing only.',
  },
  {
    when: /too (large|big)|exceeds|bigger than|max.?download|no space|not enough space/i,
    verdict: 'fault',
    says: 'It is too large for where it goes.',
    next: 'Right image, right partition? Too large for one transfer: send it in sparse parts.',
  },
  {
    when: /wrong|mismatch|for another (handset|device|product)|product.*(differs|is not)/i,
    verdict: 'fault',
    says: 'It says that this is for something else.',
    next: 'Stop. Compare code name and variant letter by letter before anything is tried again.',
  },
  {
    when: /battery.*(low|too)|low battery/i,
    verdict: 'fault',
    says: 'Its battery is too low for a write.',
    next: 'Charge it to half, in this mode if it charges there, then the same step again.',
  },
  {
    when: /unauthori[sz]ed|not trusted|allow.*debugging/i,
    verdict: 'fault',
    says: 'The handset does not trust this computer yet.',
    next: 'Unlock its screen, answer the question there, then the same command again.',
  },
  {
    when: /permission denied|access denied|in use|busy|claimed/i,
    verdict: 'fault',
    says: 'Another program or a missing right stands between.',
    next: 'Close what else speaks to handsets, look at the driver, then the same command again.',
  },
  {
    when: /no (handsets?|devices?)|not (found|listed)|waiting for|cannot connect|connection (lost|reset|refused)|link.?lost|timed? ?out|broken pipe/i,
    verdict: 'fault',
    says: 'The handset is not listed, or the link was lost.',
    next: `${AGAIN} In the middle of a write: stay in this mode and write again.`,
  },
  {
    when: /password|decrypt|can.?t mount|unable to mount|required key/i,
    at: ['recovery', 'root-zip', 'sideload', 'sideload-mode'],
    verdict: 'fault',
    says: 'The recovery does not open this storage.',
    next: 'It does not know this release’s encryption. Do not format: take another lane, or a recovery made for this release.',
  },
  {
    when: /refus|not permitted|denied/i,
    verdict: 'fault',
    says: 'It was refused.',
    next: 'Nothing has changed. Read the reason in the line, and the checks of this step.',
  },
  {
    when: /invalid (sparse|.*ignored)|sparse.*(ignored|splitting)|sending sparse|re-?sending/i,
    at: WRITING,
    verdict: 'harmless',
    says: 'It sends the image in parts. That is normal for large ones.',
    next: 'Wait for the last part.',
  },
  {
    when: /warning|deprecated|ignored/i,
    verdict: 'harmless',
    says: 'A warning, no failure.',
    next: 'Read on to the last line before you go on.',
  },
  {
    when: /fail|error|abort/i,
    verdict: 'fault',
    says: 'It says that it failed.',
    next: 'In the bootloader: the same command once more. If it fails again, stop here.',
  },
  {
    when: /okay|\bok\b|done|success|finished|installed|complete|"partition":|total time|100 ?%/i,
    verdict: 'success',
    says: 'It says that it went well.',
    next: 'That is a tool’s word. The proof comes with what is read afterwards.',
  },
];

const MOST_CHARACTERS = 200_000;

/** Judges what was pasted; only the end of something very long is read. */
export function readOutput(key: StepKey, text: string): OutputVerdict {
  const lines = text
    .slice(-MOST_CHARACTERS)
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '');
  for (const rule of RULES) {
    if (rule.at && !rule.at.includes(key)) continue;
    const line = lines.findLast((one) => rule.when.test(one));
    // a harmless line decides only where nothing else does
    if (line === undefined || (rule.verdict === 'harmless' && succeeded(lines))) continue;
    return { verdict: rule.verdict, says: rule.says, next: rule.next, line: line.slice(0, 300) };
  }
  return {
    verdict: 'unknown',
    says: 'Nothing in it is known here.',
    next: 'Compare with “You will see”, and say what you saw.',
    line: null,
  };
}

const SUCCESS = RULES.find((rule) => rule.verdict === 'success')!.when;
const succeeded = (lines: readonly string[]) => lines.some((line) => SUCCESS.test(line));

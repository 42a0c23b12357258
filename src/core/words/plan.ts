/* What a plan is to be watched for, and what the handset is if it ends at a step. */

export type LintCode =
  | 'erases'
  | 'erases-trust'
  | 'recovery-overwritten'
  | 'other-slot-gone'
  | 'read-serial'
  | 'restart-takes-update'
  | 'writes-bootloader';

export const LINT_WORDS: Readonly<Record<LintCode, string>> = {
  erases: 'It erases everything: keep what is needed later somewhere else.',
  'erases-trust':
    'Debugging and the trust of this computer are gone after it; turn them on again before the link is needed.',
  'recovery-overwritten': 'The custom recovery is overwritten here.',
  'other-slot-gone': 'After this the other slot is no way back any more; only the stock image is.',
  'read-serial': 'Read its serial here before anything is written: two handsets look alike in this mode.',
  'restart-takes-update':
    'From here on every restart starts the new build: refuse each that is offered until the step that takes it.',
  'writes-bootloader':
    'It writes bootloader and radio too: have half a battery or more, and the computer on mains.',
};

export interface EndsSays {
  readonly is: 'dead' | 'loops' | 'starts';
  /** Why it loops; null otherwise. */
  readonly fault: string | null;
  /** Slot it starts from; null on a handset with one. */
  readonly slot: string | null;
  readonly root: 'on disk and running' | 'running only' | 'on disk only' | 'none';
  /** An update waits for the next start. */
  readonly updateWaits: boolean;
  readonly wiped: boolean;
}

const ROOT = {
  'on disk and running': 'with root',
  'running only': 'with root until its next restart',
  'on disk only': 'with root on disk, not running yet',
  none: 'without root',
} as const;

export function endsWords({ is, fault, slot, root, updateWaits, wiped }: EndsSays): string {
  const gone = wiped ? ' Its data is gone.' : '';
  if (is === 'dead') return 'It does not start any more, and nothing you can do at home changes that.';
  if (is === 'loops') return `It starts over and over: ${fault}.${gone}`;
  const waits = updateWaits ? ' The update that waits starts with any restart.' : '';
  return `It starts${slot === null ? '' : ` from slot ${slot}`}, ${ROOT[root]}.${waits}${gone}`;
}

/** After a step that went wrong. */
export const NOT_KNOWN_NOW = 'What it is now is not known. Find that out before you leave it like this.';

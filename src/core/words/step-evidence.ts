/* What the evidence of a round's steps says. Plain English; nothing reads it back. */

export const CODE_CAME = 'the code came by mail and is kept with the private values';
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
export const patchedBy = (kit: string, sha256: string) =>
  `patched by ${kit}, proved again by the server: ${sha256}`;

export const OWN_SERIAL = 'the serial is this handset’s';
export const SAID_TO_BE_WRITTEN = 'said to be written by hand';
export const pasted = (build: string | null, slot: string | null) =>
  `pasted: ${[build, slot && `slot ${slot}`].filter(Boolean).join(', ') || 'bootloader variables'}`;

export const RESTARTED_AS_SAID = 'it restarted before its time, as was said';
export const restartedEarly = (build: string | null) =>
  `it restarted before its time${build === null ? '' : ` and runs ${build}`}`;

export const LOOPS = 'It starts over and over, as you said.';

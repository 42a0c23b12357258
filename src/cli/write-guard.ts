import { parseHandsetInput } from '@/contracts/handset-input';
import type { ByteSource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { blocking, verdictOf } from '@/core/gates/check';
import { interpretFacts, parsePrinted } from '@/core/formats/facts/parse-facts';
import type { WriteCheck } from '@/core/judge/judge-write';
import type { WriteTarget } from '@/core/judge/write-question';
import { judgeWrite } from '@/core/judge/judge-write';
import { weighWrite } from '@/core/judge/weigh-write';
import { isSlotted, writeTargetOf } from '@/core/judge/write-target';
import type { HandsetFacts } from '@/core/judge/write-target';
import { identifyImage } from '@/core/packages/bare-image';
import { unwrap } from '@/core/packages/unwrap';
import type { WritePurpose } from '@/core/words/write';
import { WRITE_CHECK_TITLES, WRITE_PURPOSES, writeSawWords } from '@/core/words/write';
import type { BootloaderClient } from '@/link/bootloader-client';
import { pooledPorts } from '@/platform/node/pooled-ports';
import type { Arguments } from './arguments';
import { readJson } from './files';
import { withProofFiles } from './proof-files';

/* Before the command line writes: the judgement of every write, from files that the person names. */

export const PROOF_OPTIONS = ['facts', 'stock', 'kit', 'purpose', 'unproved'] as const;
export const PROOF_LISTS = ['package'] as const;

/** A check as the command prints it. */
interface PrintedCheck {
  readonly id: string;
  readonly holds: boolean | null;
  readonly evidence: string;
  readonly overridable: boolean;
}

export interface GuardedWrite {
  readonly sha256: string;
  readonly checks: readonly PrintedCheck[];
  /** Why the person went past what is not known; null where nothing had to be. */
  readonly unproved: string | null;
}

const isPurpose = (word: string): word is WritePurpose =>
  (WRITE_PURPOSES as readonly string[]).includes(word);

/** @throws {EternoError} `usage` for what is no purpose */
export function purposeOf(word: string): WritePurpose {
  if (!isPurpose(word)) throw new EternoError('usage', `--purpose takes ${WRITE_PURPOSES.join(', ')}`);
  return word;
}

/** What the bootloader says of itself now, completed by what the person gave. */
async function handsetNow(
  client: BootloaderClient,
  given: HandsetFacts | null,
): Promise<{ readonly facts: HandsetFacts; readonly serial: string | null }> {
  const { values } = parsePrinted(
    (await client.allVariables()).map((line) => `(bootloader) ${line}`).join('\n'),
  );
  const now = interpretFacts(values);
  const known = Object.fromEntries(
    Object.entries(now).filter(([, value]) => value !== null && value !== undefined),
  );
  const fuse = values['anti'];
  return {
    serial: now.serial,
    facts: {
      ...given,
      ...known,
      mode: values['is-userspace'] === 'yes' ? 'userspace' : 'bootloader',
      snapshot:
        values['snapshot-update-status'] ?? (now.slotCount === 1 ? 'none' : (given?.snapshot ?? null)),
      ...(fuse !== undefined && /^\d+$/.test(fuse) ? { fuse: Number(fuse) } : {}),
      // asked a moment ago: what a file says of it is older than that
      batteryOk: now.batteryOk,
      batteryPercent: null,
      batteryAge: 0,
    },
  };
}

const printed = ({ id, holds, saw, overridable }: WriteCheck): PrintedCheck => ({
  id,
  holds,
  evidence: writeSawWords(saw),
  overridable,
});

/** With no facts given there is nothing to compare; a serial that one of them leaves out is not known. */
function serialCheck(given: string | null | undefined, read: string | null): PrintedCheck[] {
  if (given === undefined) return [];
  const holds = given === null || read === null ? null : given === read;
  const evidence =
    holds === null
      ? 'No serial was given to compare.'
      : holds
        ? 'The same serial.'
        : 'The serial in the facts is another handset’s.';
  return [{ id: 'serial', holds, evidence, overridable: holds === null }];
}

/** What is written, and from where; without a partition it is only started from memory. */
export interface Place {
  readonly partition: string | null;
  readonly slot: string | null;
}

/**
 * @throws {EternoError} `refused` where a check does not hold, with all of them in `details`; `bad-magic` for
 *   what is no image
 */
export async function needWritable(
  client: BootloaderClient,
  image: ByteSource,
  place: Place,
  parsed: Arguments,
): Promise<GuardedWrite> {
  const factsPath = parsed.option('facts');
  const given = factsPath === undefined ? null : await parseHandsetInput(await readJson(factsPath));
  const { facts, serial } = await handsetNow(client, given);
  const partition = place.partition ?? 'boot';
  const slot =
    place.partition === null && isSlotted(facts, partition) === true
      ? (facts.currentSlot ?? 'a')
      : place.slot;
  const target = writeTargetOf(facts, partition, slot);
  const { sha256, checks } = await judged(image, target, parsed);
  const all = [...serialCheck(given === null ? undefined : (given.serial ?? null), serial), ...checks];
  const reason = parsed.option('unproved')?.trim() ?? '';
  const asGates = all.map((check) => ({ ...check, verdict: verdictOf(check.holds) }));
  const held = blocking(asGates, reason === '' ? [] : asGates.map(({ id }) => ({ checkId: id, reason })));
  if (held.length > 0)
    throw new EternoError(
      'refused',
      held.map(({ id, evidence }) => `${titleOf(id)}: ${evidence}`).join(' '),
      {
        file: image.name,
        details: { checks: held.map(({ id, verdict }) => `${id} ${verdict}`).join(', ') },
      },
    );
  const open = all.some(({ holds }) => holds !== true);
  return { sha256, checks: all, unproved: open ? reason : null };
}

const titleOf = (id: string) =>
  Object.hasOwn(WRITE_CHECK_TITLES, id)
    ? WRITE_CHECK_TITLES[id as keyof typeof WRITE_CHECK_TITLES]
    : 'The facts are this handset’s';

/** Where the person names no purpose, an image that is its stock image is written as that, else as root's. */
async function judged(image: ByteSource, target: WriteTarget, parsed: Arguments) {
  const named = parsed.option('purpose');
  return withProofFiles(parsed, async (files) => {
    // only a bootloader or a radio may be of a format that nobody knows
    if (named !== 'bootloader') await identifyImage((await unwrap(image, pooledPorts)).source, pooledPorts);
    const as = async (purpose: WritePurpose) => ({
      purpose,
      ...(await weighWrite({ image, ...files }, { purpose, target }, pooledPorts)),
    });
    const first = await as(named === undefined ? 'stock' : purposeOf(named));
    const isStock = first.proof.kind === 'bytes' && first.proof.same;
    const weighed = named === undefined && !isStock ? await as('root') : first;
    const { checks } = judgeWrite({ target, ...weighed });
    return { sha256: weighed.sha256, checks: checks.map(printed) };
  });
}

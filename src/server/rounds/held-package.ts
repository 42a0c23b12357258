import 'server-only';
import { readFile } from 'node:fs/promises';
import { array, number, object, string } from 'yup';
import type { BuildPackageNeeded } from '@/contracts/round-view';
import type { OpenedPackage as KeptPackage } from '@/core/bench/bench';
import { wholePackage, wholeParts } from '@/core/bench/whole-build';
import type { ByteSource } from '@/core/bytes/byte-source';
import { EternoError } from '@/core/errors';
import { openPackageFiles } from '@/core/packages/open-package';
import type { OpenedPackage } from '@/core/packages/package-report';
import { isSamePackage } from '@/core/packages/same-package';
import { DEEDS } from '@/core/steps/deeds';
import { writeFileWhole } from '@/platform/node/file-sink';
import { openFile } from '@/platform/node/file-source';
import { nodePorts } from '@/platform/node/node-ports';
import { forgetIncoming, incomingPath } from '../services/incoming';
import type { StepRun } from './executors/running';
import type { RoundContext } from './round-context';
import { buildOfStep } from './round-context';

/*
 * The package of a whole build while its step writes it. Images too large to be kept pass through from here
 * to the handset. Its files lie on this computer's disk until the step is done, so that a write that was
 * stopped goes on without them being sent again.
 */

const heldSchema = array(
  object({
    token: string().required(),
    name: string().required(),
    size: number().integer().min(0).required(),
  }).required(),
).required();

export interface HeldFile {
  readonly token: string;
  readonly name: string;
  readonly size: number;
}

/** Which files are held for a round lies beside them, under the round's own name. */
async function heldFiles(roundId: string): Promise<readonly HeldFile[]> {
  const text = await readFile(/*turbopackIgnore: true*/ incomingPath(roundId), 'utf8').catch(() => null);
  return text === null ? [] : heldSchema.validate(JSON.parse(text));
}

/** Whether a round's package lies here and was sent whole. */
async function holdsPackage(roundId: string): Promise<boolean> {
  const held = await openHeld(roundId);
  await held?.close();
  return held !== null;
}

/** Files that were taken to disk whole are a round's package from now on. */
export const holdFiles = (roundId: string, files: readonly HeldFile[]) =>
  writeFileWhole(incomingPath(roundId), new TextEncoder().encode(JSON.stringify(files)));

export async function forgetHeld(roundId: string): Promise<void> {
  for (const { token } of await heldFiles(roundId)) await forgetIncoming(token);
  await forgetIncoming(roundId);
}

async function openHeld(
  roundId: string,
): Promise<{ readonly sources: readonly ByteSource[]; readonly close: () => Promise<void> } | null> {
  const files = await heldFiles(roundId);
  if (files.length === 0) return null;
  const opened = await Promise.all(files.map(({ token }) => openFile(incomingPath(token)).catch(() => null)));
  const close = async () => {
    for (const one of opened) await one?.close();
  };
  const sources = opened.flatMap((source, i): ByteSource[] => {
    const { name, size } = files[i]!;
    return source?.size === size
      ? [{ name, size, read: (start, end, signal) => source.read(start, end, signal) }]
      : [];
  });
  if (sources.length === files.length) return { sources, close };
  await close();
  return null;
}

/**
 * The package of a round's build, opened from the files that are held.
 * @throws {EternoError} `refused` where none is held, `does-not-fit` where it is another, and of the readers
 */
export async function withBuildPackage<T>(
  { round, watch }: Pick<StepRun, 'round' | 'watch'>,
  whole: KeptPackage,
  work: (opened: OpenedPackage) => Promise<T>,
): Promise<T> {
  const held = await openHeld(round.id);
  if (!held)
    throw new EternoError(
      'refused',
      `Choose the package first: ${whole.fileName}. Its largest images are not kept; they go from its file to the handset.`,
    );
  try {
    const opened = await openPackageFiles(held.sources, nodePorts, { signal: watch.signal });
    const { report } = opened;
    if (!isSamePackage(report, whole.report)) {
      await forgetHeld(round.id);
      throw new EternoError(
        'does-not-fit',
        `This is not ${whole.fileName} as it was opened before. Nothing of it was written.`,
      );
    }
    return await work(opened);
  } finally {
    await held.close();
  }
}

/** What has to be sent for a step that writes a whole build; null where all of it is kept. */
export async function packageNeeded(
  { bench, round }: RoundContext,
  step: RoundContext['steps'][number],
): Promise<BuildPackageNeeded | null> {
  if (DEEDS[step.key].writes?.what !== 'whole build') return null;
  const build = buildOfStep({ round }, step, 'the target');
  const whole = wholePackage(bench, build);
  const passing = (wholeParts(bench, build) ?? []).filter(({ passes }) => passes);
  if (!whole || passing.length === 0) return null;
  const sizes = passing.map(({ size }) => size);
  return {
    file: { name: whole.fileName, sizeBytes: whole.sizeBytes },
    partitions: passing.map(({ partition }) => partition),
    sizeBytes: sizes.some((size) => size === null)
      ? null
      : sizes.reduce<number>((sum, size) => sum + (size ?? 0), 0),
    held: await holdsPackage(round.id),
  };
}

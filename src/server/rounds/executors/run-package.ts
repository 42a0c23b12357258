import 'server-only';
import { memorySource } from '@/core/bytes/byte-source';
import { sha256Hex } from '@/core/bytes/digest';
import { EternoError } from '@/core/errors';
import { heldImage } from '@/core/slots/held-image';
import { nodeDigests } from '@/platform/node/node-digests';
import { keepReadOut } from '../../services/read-back-service';
import { needRoot } from '../../services/link-service';
import { packageOfRound, packageParts } from '../package-parts';
import { slotOf } from '../round-context';
import { needJudged } from './judged-write';
import type { Executor, Executors, StepRun } from './running';
import { named, readyInside, strong, whileWriting } from './running';
import { pushFromVault } from './run-writes';

/* An install package, put in by root from the running system. */

/** @throws {EternoError} `refused` where it is not kept any more */
function needPackage(running: StepRun) {
  const kept = packageOfRound(running);
  const parts = packageParts(running);
  if (kept === null || parts.length < kept.report.kept.images.length)
    throw new EternoError('refused', 'The package, or an image of it, is not in the vault any more.');
  return { kept, parts, slot: slotOf(running, running.step) };
}

/** Root reads every partition that it overwrites; what lies there is kept. */
const readOut: Executor = async (running) => {
  const { link, watch } = running;
  const { parts, slot } = needPackage(running);
  await needRoot(link);
  const evidence = [];
  for (const [i, { partition }] of parts.entries()) {
    const name = named(partition, slot);
    watch.onProgress({ phase: `read ${name}`, doneBytes: i, totalBytes: parts.length });
    const bytes = await link.read(name);
    const { sha256 } = await heldImage(memorySource(bytes, name), running.bench.images, nodeDigests);
    if (!(await keepReadOut(sha256, bytes, name)))
      throw new EternoError(
        'refused',
        `What lies on ${name} is of no known format, so it can’t be kept, and nothing would show the way back.`,
      );
    running.tell({ slots: [{ slot, partition, sha256, certainty: 'read', reason: 'read out with root' }] });
    evidence.push(strong(`${name} read out and kept: ${sha256}`));
  }
  return evidence;
};

/** What lies there now, against the images in the package. */
async function seeThere(running: StepRun) {
  const { parts, slot } = needPackage(running);
  const evidence = [];
  for (const { partition, image } of parts) {
    const name = named(partition, slot);
    const { sha256 } = await heldImage(
      memorySource(await running.link.read(name), name),
      [{ sha256: image.sha256, sizeBytes: image.sizeBytes }],
      nodeDigests,
    );
    running.wrote(partition, slot, sha256, 'read', 'read back with root');
    if (sha256 !== image.sha256)
      throw new EternoError('bad-hash', `${name} holds ${sha256}, not the image of the package.`);
    evidence.push(strong(`${name} read back: ${sha256}, the image of the package`));
  }
  return evidence;
}

const packageInside: Executor = async (running) => {
  const { link, watch } = running;
  const { kept, parts, slot } = needPackage(running);
  await readyInside(running);
  await needRoot(link);
  for (const { partition, image } of parts)
    await needJudged(running, { image, sizeBytes: image.sizeBytes }, { partition, slot, mode: 'system' });
  const path = `/storage/${kept.report.kept.sha256.slice(0, 12)}.zip`;
  await pushFromVault(running, 'installs', kept.report.kept.sha256, path);
  if ((await sha256Hex(nodeDigests, await link.pull(path))) !== kept.report.kept.sha256)
    throw new EternoError('io', 'What arrived on the handset is not the package that was sent.');
  for (const { partition } of parts) running.began(partition, slot);
  watch.onProgress({ phase: 'write', doneBytes: 1, totalBytes: 2 });
  await whileWriting(running, kept.fileName, () => link.installPackage(path));
  return [strong(`${kept.fileName} installed by root`), ...(await seeThere(running))];
};

const seeAgain: Executor = async (running) => {
  await needRoot(running.link);
  return seeThere(running);
};

export const PACKAGES = {
  'read-out': readOut,
  'package-inside': packageInside,
  'see-again': seeAgain,
} as const satisfies Executors;

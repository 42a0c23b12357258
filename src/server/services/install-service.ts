import 'server-only';
import { rm } from 'node:fs/promises';
import { keptInstalls } from '@/core/bench/install-package';
import { sha256Hex } from '@/core/bytes/digest';
import { EternoError } from '@/core/errors';
import { LIMITS } from '@/core/limits';
import { openPackage } from '@/core/packages/open-package';
import type { KeptInstall } from '@/core/packages/package-report';
import { filesOfZip, findFile } from '@/core/packages/package-files';
import type { ScriptTargets } from '@/core/packages/script-targets';
import { nodeDigests } from '@/platform/node/node-digests';
import { nodePorts } from '@/platform/node/node-ports';
import type { ByteSource } from '@/core/bytes/byte-source';
import { listPackages, recordPackage } from '../repositories/image-repository';
import { openInVault, putInVault, vaultPath } from '../vault/vault';
import { now } from './clock';
import { storeImage } from './image-service';
import { oneAtATime } from './one-at-a-time';
import { onePiece } from './streams';

/*
 * Install packages that root puts in from the running system: kept whole, with each image in them in the vault, so
 * that it is judged like any other before anything is written (docs/method.md, "A package from the running system").
 */

/** @throws {EternoError} `refused` where not all of what it writes is told, `unsupported` for any other file */
function needTold(script: ScriptTargets | undefined, name: string): ScriptTargets['targets'] {
  if (script === undefined)
    throw new EternoError('unsupported', 'This is no package that a recovery or root installs.', {
      file: name,
    });
  const open = script.targets.find(({ member }) => member === null);
  if (script.unclear !== null || open)
    throw new EternoError(
      'refused',
      'Not all of what it writes can be told from its script, so Eterno does not install it.',
      { file: name },
    );
  return script.targets;
}

/** The images that it puts somewhere, each taken out whole and kept. */
async function keepImages(
  source: ByteSource,
  targets: ScriptTargets['targets'],
  fileName: string,
): Promise<KeptInstall['images']> {
  const files = filesOfZip(await nodePorts.openZip(source));
  const images = [];
  for (const { partition, member } of targets) {
    const file = findFile(files, member!);
    if (file === null)
      throw new EternoError('not-found', `Its script writes ${member}, and that is not in it.`, {
        file: fileName,
      });
    if (file.size > LIMITS.keptImageBytes)
      throw new EternoError('too-large', `${member} is ${file.size} bytes, too much to be kept.`, {
        file: fileName,
      });
    const opened = await file.open();
    const bytes = await opened.source.read(0, opened.source.size);
    await opened.check();
    const sha256 = await sha256Hex(nodeDigests, bytes);
    await storeImage(sha256, onePiece(bytes), { from: 'file', name: member!, partition });
    images.push({ partition, sha256, sizeBytes: bytes.length });
  }
  return images;
}

/**
 * Keeps an install package whole, and every image that it puts somewhere.
 * @returns what goes where
 * @throws {EternoError} `refused` where not all of what it writes is told, `bad-magic` for an image of no known
 *   format, `bad-hash`, `too-large` and what its readers find wrong; it is not kept then
 */
export const storeInstall = (
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  fileName: string,
): Promise<KeptInstall> => oneAtATime(`install ${sha256}`, () => keepInstall(sha256, body, fileName));

async function keepInstall(
  sha256: string,
  body: AsyncIterable<Uint8Array>,
  fileName: string,
): Promise<KeptInstall> {
  const sizeBytes = await putInVault('installs', sha256, body, LIMITS.installBytes);
  const source = { ...(await openInVault('installs', sha256)), name: fileName };
  try {
    const { report } = await openPackage(source, nodePorts);
    const images = await keepImages(source, needTold(report.script, fileName), fileName);
    const kept = { sha256, images };
    await recordPackage({
      fileName,
      sizeBytes,
      report: { ...report, kept },
      readBy: 'server',
      openedAt: now(),
    });
    return kept;
  } catch (thrown) {
    const others = keptInstalls({ packages: await listPackages() });
    if (!others.some(({ report }) => report.kept.sha256 === sha256))
      await rm(/*turbopackIgnore: true*/ vaultPath('installs', sha256), { force: true });
    throw thrown;
  } finally {
    await source.close();
  }
}

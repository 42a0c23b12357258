import 'server-only';
import { rm } from 'node:fs/promises';
import type { JobView } from '@/contracts/job-view';
import type { StoreView } from '@/contracts/store-view';
import { EternoError, throwIfAborted } from '@/core/errors';
import { guardiansOf } from '@/core/vault/way-back';
import type { EventData } from '../db/event-data';
import { appendEvent, eventsOf } from '../repositories/event-repository';
import { listHandsets } from '../repositories/handset-repository';
import { keptInstalls } from '@/core/bench/install-package';
import { deleteImage, listImages, listKits, listPackages } from '../repositories/image-repository';
import { listModules } from '../repositories/module-repository';
import { picturesKept } from './note-service';
import { isWhole, sizeInVault, filesInVault, vaultPath, vaultSize } from '../vault/vault';
import { readBench } from './bench-reading';
import { now } from './clock';
import { patchedFrom } from './handset-service';
import { imageSummary } from './image-view';
import { startJob } from './jobs';
import { kitShelf, recoveryShelf } from '@/server/services/shelf-views';
import { guardingWords } from '@/core/words/way-back';
import { guardedHandsets } from './vault-guard';

/**
 * Hashes every file of the vault again, as a job. What it finds goes into the log; nothing is thrown away.
 */
export async function checkVault(): Promise<JobView> {
  return startJob(
    { kind: 'vault-check', title: 'Check the vault', roundId: null },
    async ({ signal, onProgress }) => {
      const wanted = [
        ...(await listImages()).map(({ sha256, sizeBytes }) => ({
          shelf: 'images' as const,
          sha256,
          sizeBytes,
        })),
        ...(await listKits()).map(({ sha256, sizeBytes }) => ({ shelf: 'kits' as const, sha256, sizeBytes })),
        ...(await listModules()).map(({ sha256, sizeBytes }) => ({
          shelf: 'modules' as const,
          sha256,
          sizeBytes,
        })),
        ...keptInstalls({ packages: await listPackages() }).map(({ report, sizeBytes }) => ({
          shelf: 'installs' as const,
          sha256: report.kept.sha256,
          sizeBytes,
        })),
        ...(await picturesKept()),
      ];
      const totalBytes = wanted.reduce((sum, file) => sum + file.sizeBytes, 0);
      const [damaged, missing]: [string[], string[]] = [[], []];
      let doneBytes = 0;
      for (const { shelf, sha256, sizeBytes } of wanted) {
        throwIfAborted(signal);
        if ((await sizeInVault(shelf, sha256)) === null) missing.push(sha256);
        else if (!(await isWhole(shelf, sha256, signal))) damaged.push(sha256);
        doneBytes += sizeBytes;
        onProgress({ phase: 'hash', doneBytes, totalBytes });
      }
      const known = new Set(wanted.map((file) => file.sha256));
      const strays = (await filesInVault()).filter((sha256) => !known.has(sha256)).length;
      const data: { readonly version: 1 } & EventData['vault-checked'] = {
        version: 1,
        checked: wanted.length,
        bytes: totalBytes,
        damaged,
        missing,
        strays,
      };
      await appendEvent({ at: now(), handsetId: null, roundId: null, kind: 'vault-checked', data });
    },
  );
}

/**
 * Takes an image out of the vault for good.
 * @throws {EternoError} `refused` while it is somebody's way back, `not-found`
 */
export async function throwAway(sha256: string): Promise<void> {
  const bench = await readBench();
  const image = bench.images.find((one) => one.sha256 === sha256);
  if (!image) throw new EternoError('not-found', 'This image is not in the vault.');
  const [guardian] = guardiansOf(
    { ...image, patchedFromIt: patchedFrom(bench.images, sha256) },
    await guardedHandsets(bench),
  );
  if (guardian) throw new EternoError('refused', `It stays: ${guardingWords(guardian)}`);
  await deleteImage(sha256);
  await rm(/*turbopackIgnore: true*/ vaultPath('images', sha256), { force: true });
  const { partition, role, fingerprint } = image;
  await appendEvent({
    at: now(),
    handsetId: null,
    roundId: null,
    kind: 'image-thrown-away',
    data: { version: 1, sha256, partition, role, fingerprint },
  });
}

const check = ({ checked, bytes, damaged, missing, strays }: EventData['vault-checked']) => ({
  checked,
  bytes,
  damaged,
  missing,
  strays,
});

/** What the Store room shows. */
export async function storeView(): Promise<StoreView> {
  const bench = await readBench();
  const guarded = await guardedHandsets(bench);
  const last = (await eventsOf('vault-checked')).at(-1);
  const handsets = await listHandsets();
  const names = new Map(handsets.map(({ id, name }) => [id, name]));
  return {
    vault: await vaultSize(),
    lastCheck: last === undefined ? null : { at: last.at, ...check(last.data) },
    images: bench.images.map((image) => ({
      ...imageSummary(image),
      guardian:
        guardiansOf({ ...image, patchedFromIt: patchedFrom(bench.images, image.sha256) }, guarded).map(
          guardingWords,
        )[0] ?? null,
      state: last?.data.damaged.includes(image.sha256)
        ? 'damaged'
        : last?.data.missing.includes(image.sha256)
          ? 'missing'
          : 'as kept',
    })),
    kits: kitShelf(bench, names),
    recoveries: recoveryShelf(bench, names),
    handsets: handsets.map(({ id, name }) => ({ id, name })),
    builds: bench.builds.map(({ fingerprint, buildId, product }) => ({ fingerprint, buildId, product })),
  };
}

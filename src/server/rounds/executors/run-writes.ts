import 'server-only';
import { sha256Hex } from '@/core/bytes/digest';
import type { Proved } from '@/core/bytes/hashed-source';
import { EternoError } from '@/core/errors';
import type { BootloaderClient } from '@/link/bootloader-client';
import { startFromMemory, writeImage } from '@/link/write-image';
import { nodeDigests } from '@/platform/node/node-digests';
import type { ImageRow, KitRow } from '../../db/models';
import { openInVault, readProved } from '../../vault/vault';
import { wholePackage } from '../../services/judgements';
import { imageOf, partitionFor, patchedOf, slotOf } from '../round-context';
import { standInView, withBootloader, withSystem } from '../../services/stand-in-service';
import type { Executor, Running } from './running';
import { named, readyListed, readyToWrite, stillWriting, strong, until, whileWriting } from './running';

/* Steps that write to the handset from outside. */

const MINUTE = 60_000;

export async function withImage<T>(image: Readonly<ImageRow>, work: (source: Awaited<ReturnType<typeof openInVault>>) => Promise<T>): Promise<T> {
  const source = await openInVault('images', image.sha256);
  try {
    return await work(source);
  } finally {
    await source.close();
  }
}

/** What a row of the vault was proved to be, for whoever sends its file. */
export const provedAs = ({ sha256 }: Readonly<ImageRow>): Proved => ({ sha256, digests: nodeDigests });

export function needImage(image: Readonly<ImageRow> | null): Readonly<ImageRow> {
  if (!image) throw new EternoError('refused', 'Not yet: the image is not in the vault.');
  return image;
}

export async function writeOne(running: Running, client: BootloaderClient, image: Readonly<ImageRow>, partition: string, slot: string | null) {
  const { watch } = running;
  const target = await withImage(image, (source) =>
    writeImage(
      client,
      { partition, slot },
      source,
      {
        signal: watch.signal,
        onProgress(progress) {
          if (progress.phase === 'write') {
            running.began(partition, slot);
            watch.hold(stillWriting(named(partition, slot)));
          }
          watch.onProgress({ ...progress, phase: progress.phase === 'write' ? 'write' : 'send' });
        },
      },
      provedAs(image),
    ),
  ).finally(() => watch.hold(null));
  running.wrote(partition, slot, image.sha256, 'predicted', 'written over the link');
  return strong(`${target}: ${image.sizeBytes} bytes written, ${image.sha256}`);
}

/** Writes one image of the vault to the slot of the step. */
export const writeSingle: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const key = running.step.key;
  const partition = partitionFor(running, running.step, image);
  if (partition === null) throw new EternoError('refused', 'Where its recovery lives was never read.');
  return readyToWrite(running, async (client, { evidence }) => {
    const written = await writeOne(running, client, image, partition, slotOf(running, running.step));
    if (key === 'write-stock') running.tell({ root: { state: 'stock', why: 'stock image written back' } });
    return [...evidence, written];
  });
};

/** The images of a whole build from the vault, the patched one in its place where that is wanted. */
function imagesOf(running: Running, patched: boolean): ReadonlyMap<string, Readonly<ImageRow>> {
  const { bench, round, step, rootPartition } = running;
  const build = round.target ?? step.planned.build;
  const whole = wholePackage(bench, build);
  if (!whole) throw new EternoError('refused', 'No package of all of this build was opened.');
  const images = new Map<string, Readonly<ImageRow>>();
  for (const { partition } of whole.report.images) {
    const stock = bench.images.find((image) => image.role === 'stock' && image.fingerprint === build && image.partition === partition);
    images.set(partition, needImage(patched && partition === rootPartition ? patchedOf(running, build) : (stock ?? null)));
  }
  return images;
}

const FIRST = ['bootloader', 'radio'];
const RESTART_MS = 2 * MINUTE;

/** After it left the line it comes back by itself. */
export async function backInReach(running: Running, wanted: 'yes' | 'no'): Promise<void> {
  await until(running, 'wait for it to come back', RESTART_MS, () =>
    withBootloader(running.profile, async (client) => ((await client.variable('is-userspace')) === wanted ? true : null)).catch(() => null),
  );
}

/** Bootloader, restart into it, radio, restart into it, then the rest held: what is logical from user-space flashing. */
export const writeBuild: Executor = async (running) => {
  const { profile, step, slotCount } = running;
  const images = imagesOf(running, step.key === 'write-build-patched');
  const slots: readonly (string | null)[] = slotCount === 1 ? [null] : step.key === 'write-build-both' ? ['a', 'b'] : [step.planned.slot];
  const evidence = await readyToWrite(running, async (client, reading) => {
    const level = await client.variable('battery-soc-ok');
    if (level === 'no') throw new EternoError('refused', 'The handset says its battery is too low for a write. Charge it first.');
    return [...reading.evidence];
  });
  const write = async (partition: string, image: Readonly<ImageRow>) => {
    for (const slot of slots) evidence.push(await withBootloader(profile, (client) => writeOne(running, client, image, partition, slot)));
  };
  for (const partition of FIRST) {
    const image = images.get(partition);
    if (!image) continue;
    await write(partition, image);
    await withBootloader(profile, (client) => client.command('reboot-bootloader'));
    await backInReach(running, 'no');
  }
  const logical: (readonly [string, Readonly<ImageRow>])[] = [];
  for (const [partition, image] of images) {
    if (FIRST.includes(partition)) continue;
    const name = named(partition, slots[0] ?? null);
    if (await withBootloader(profile, async (client) => (await client.variable(`is-logical:${name}`)) === 'yes')) logical.push([partition, image]);
    else await write(partition, image);
  }
  if (logical.length > 0) {
    await withBootloader(profile, (client) => client.command('reboot-fastboot'));
    await backInReach(running, 'yes');
    for (const [partition, image] of logical) await write(partition, image);
    await withBootloader(profile, (client) => client.command('reboot-bootloader'));
    await backInReach(running, 'no');
  }
  return evidence;
};

/** A matched set in download mode; its region part keeps or erases. */
export const writeSet: Executor = async (running) => {
  const { profile, step, watch } = running;
  const keepData = step.key !== 'write-set-wipe';
  const images = imagesOf(running, step.key !== 'write-set');
  const { evidence } = await readyListed(running, 'download');
  const slot = slotOf(running, running.step);
  const totalBytes = [...images.values()].reduce((sum, image) => sum + image.sizeBytes, 0);
  let doneBytes = 0;
  await withSystem(profile, async (client) => {
    for (const [partition, image] of images) {
      await client.send({ do: 'set-part', partition }, await readProved('images', image.sha256));
      doneBytes += image.sizeBytes;
      watch.onProgress({ phase: 'send', doneBytes, totalBytes });
    }
    watch.onProgress({ phase: 'write', doneBytes, totalBytes });
    for (const partition of images.keys()) running.began(partition, slot);
    await whileWriting(running, 'The set', () => client.ask({ do: 'set-end', keepData })).catch((thrown: unknown) => {
      // it judges the whole set before its first write
      if (thrown instanceof EternoError && thrown.code === 'handset-refused') running.refused();
      throw thrown;
    });
  });
  for (const [partition, image] of images) running.wrote(partition, slot, image.sha256, 'predicted', 'written as part of a set');
  return [...evidence, strong(`${images.size} images written as one set, ${keepData ? 'data kept' : 'data erased'}`)];
};

export const startOnce: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const evidence = await readyToWrite(running, async (client, reading) => {
    await withImage(image, (source) => startFromMemory(client, source, running.watch, provedAs(image)));
    return reading.evidence;
  });
  await until(running, 'start', 10 * MINUTE, async () => {
    const mode = (await standInView(running.profile))?.state.mode;
    if (mode === 'looping')
      throw new EternoError('handset-refused', 'It loops with this image. The disk is as it was: start it again from its bootloader.');
    return mode === 'system' ? true : null;
  });
  return [...evidence, strong(`started from memory: ${image.sha256}; nothing was written`)];
};

/** The kit that made an image. @throws {EternoError} `refused` */
export function kitOf({ bench }: Running, image: Readonly<ImageRow>): Readonly<KitRow> {
  const kit = bench.kits.find((row) => `${row.kitId} ${row.version}` === image.kit);
  if (!kit) throw new EternoError('refused', 'The kit that made the image is not in the vault.');
  return kit;
}

/** A file on the handset's storage: whole path, bytes, and when it came there, in milliseconds. */
export interface HandsetFile {
  readonly path: string;
  readonly size: number;
  readonly at: number;
}

export async function listFolder(profile: string, path: string): Promise<readonly HandsetFile[]> {
  const { files } = (await withSystem(profile, (client) => client.ask({ do: 'list', path }))) as { files?: readonly HandsetFile[] };
  return files ?? [];
}

/** A file of the vault on the handset's storage, its size looked at afterwards. */
export async function pushFromVault({ profile }: Running, shelf: 'images' | 'kits', sha256: string, path: string): Promise<void> {
  const bytes = await readProved(shelf, sha256);
  await withSystem(profile, (client) => client.send({ do: 'push', path }, bytes));
  if ((await listFolder(profile, '/storage')).find((file) => file.path === path)?.size !== bytes.length)
    throw new EternoError('io', 'What arrived on the handset has another size.');
}

export async function pushKit(running: Running, kit: Readonly<KitRow>): Promise<string> {
  const path = `/storage/${kit.kitId}-${kit.version}.zip`;
  await pushFromVault(running, 'kits', kit.sha256, path);
  return path;
}

/** The kit goes onto the handset; the recovery installs it; what came of it is read back. */
export const rootZip: Executor = async (running) => {
  const { handset, rootPartition, profile } = running;
  const image = needImage(imageOf(running, running.step));
  if (rootPartition === null) throw new EternoError('refused', 'Where root sits is not known.');
  const { evidence } = await readyListed(running, 'recovery');
  const path = await pushKit(running, kitOf(running, image));
  const slot = slotOf(running, running.step);
  running.began(rootPartition, slot);
  const read = () => withSystem(profile, (client) => client.read(named(rootPartition, slot)));
  const before = await sha256Hex(nodeDigests, await read());
  await until(running, `choose “Install ${path.split('/').at(-1)}” on the handset`, 30 * MINUTE, async () => {
    const screen = (await standInView(profile))?.screen;
    return screen?.kind === 'menu' && screen.busy === null && /is installed/.test(screen.said ?? '') ? true : null;
  });
  const sha256 = await sha256Hex(nodeDigests, await read());
  if (sha256 === before) throw new EternoError('bad-hash', `${rootPartition} is as it was: nothing was installed.`);
  running.wrote(rootPartition, slot, sha256, 'read', 'read back in the recovery');
  if (sha256 !== image.sha256)
    throw new EternoError('bad-hash', `${rootPartition} read back is ${sha256}, not the image that was proved for ${handset.name}.`);
  return [...evidence, strong(`${named(rootPartition, slot)} read back in the recovery: ${sha256}, the image that was proved here`)];
};

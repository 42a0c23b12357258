import 'server-only';
import { memorySource } from '@/core/bytes/byte-source';
import { sha256Hex } from '@/core/bytes/digest';
import { EternoError } from '@/core/errors';
import * as say from '@/core/words/step-evidence';
import { readTar } from '@/core/formats/tar/reader';
import type { HandsetFile } from '@/core/link/handset-link';
import { nodeDigests } from '@/platform/node/node-digests';
import { isWhole, openInVault, putInVault, readProved } from '../../vault/vault';
import { storeImage } from '../../services/image-service';
import { kitFor } from '@/core/bench/judgements';
import { buildOfStep, imageOf, partitionFor, stockOf, slotOf } from '../round-context';
import { needRoot } from '../../services/link-service';
import { onePiece } from '../../services/streams';
import type { Executor, Executors } from './running';
import {
  keepBootloaderFacts,
  keepListed,
  named,
  readyInside,
  readyToWrite,
  strong,
  until,
  untilListed,
  whileWriting,
  readBackOf,
} from './running';
import { needJudged } from './judged-write';
import { writeInside } from './run-updates';
import {
  backInReach,
  kitOf,
  needImage,
  provedAs,
  pushFromVault,
  pushKit,
  withImage,
  writeOne,
} from './run-writes';

/* Steps by way of a recovery, what root installs from inside, and patching on the handset. */

const MINUTE = 60_000;

const recoveryOnce: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const { evidence } = await readyToWrite(running);
  if (running.recoveryHome !== null)
    await needJudged(
      running,
      { image, sizeBytes: image.sizeBytes },
      { partition: running.recoveryHome, slot: slotOf(running, running.step), mode: 'bootloader' },
    );
  await withImage(image, (source) => running.link.startOnce(source, provedAs(image), running.watch));
  if (running.link.reaches === 'its bootloader') return [...evidence, strong(say.sentToStart(image.sha256))];
  await untilListed(running, 'start', 5 * MINUTE, 'recovery');
  const listed = await keepListed(running, 'recovery');
  if (listed.recovery === null)
    throw new EternoError(
      'handset-refused',
      'The recovery that runs is the maker’s, not the one that was sent.',
    );
  return [
    ...evidence,
    ...listed.evidence,
    strong(`${listed.recovery} runs from memory: ${image.sha256}; nothing was written`),
  ];
};

/** One file of the whole data partition, kept here under its hash and counted after it was read back. */
const backUpImage: Executor = async (running) => {
  const { link, watch } = running;
  const { evidence, recovery } = await keepListed(running, 'recovery');
  watch.onProgress({ phase: 'read', doneBytes: 0, totalBytes: 2 });
  const bytes = await link.imageOfData();
  const sha256 = await sha256Hex(nodeDigests, bytes);
  await putInVault('data', sha256, onePiece(bytes));
  watch.onProgress({ phase: 'read back', doneBytes: 1, totalBytes: 2 });
  if (!(await isWhole('data', sha256)))
    throw new EternoError('bad-hash', 'The image of the data that was kept is not what the handset sent.');
  const source = await openInVault('data', sha256);
  try {
    const { members } = await readTar(source);
    running.tell({
      backups: [
        {
          what: 'image-level',
          note: `${members.length} files by ${recovery}, ${sha256}`,
          parts: ['data-image', 'root-images'],
        },
      ],
    });
    return [...evidence, strong(`${bytes.length} bytes with ${members.length} files, read back: ${sha256}`)];
  } finally {
    await source.close();
  }
};

/** Root writes the recovery to the slot that runs, or to the one that waits. */
const recoveryInside: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const partition = partitionFor(running, running.step, image);
  if (partition === null) throw new EternoError('refused', 'Where its recovery lives was never read.');
  const { update } = await readyInside(running);
  const slot = running.slotCount === 2 ? (update?.slot ?? slotOf(running, running.step)) : null;
  const bytes = await readProved('images', image.sha256);
  await needRoot(running.link);
  return [await writeInside(running, { partition, slot }, bytes, image.sha256, update?.build)];
};

/** The kit installs itself from the running system; what it made has to be the image that was proved here. */
const zipInside: Executor = async (running) => {
  const { rootPartition, link, watch, handset } = running;
  const image = needImage(imageOf(running, running.step));
  if (rootPartition === null) throw new EternoError('refused', 'Where root sits is not known.');
  await readyInside(running);
  const path = await pushKit(running, kitOf(running, image));
  const slot = slotOf(running, running.step);
  await needRoot(link);
  await needJudged(
    running,
    { image, sizeBytes: image.sizeBytes },
    { partition: rootPartition, slot, mode: 'system' },
  );
  running.began(rootPartition, slot);
  watch.onProgress({ phase: 'write', doneBytes: 1, totalBytes: 2 });
  await whileWriting(running, named(rootPartition, slot), () => link.installPackage(path));
  const sha256 = await readBackOf(running, named(rootPartition, slot));
  running.wrote(rootPartition, slot, sha256, 'read', 'installed from inside and read back');
  if (sha256 !== image.sha256)
    throw new EternoError(
      'bad-hash',
      `${rootPartition} read back is ${sha256}, not the image that was proved for ${handset.name}.`,
    );
  return [strong(`${named(rootPartition, slot)} read back: ${sha256}, the image that was proved here`)];
};

/** Written alone, then read again before anything else. */
const bootloaderAlone: Executor = async (running) => {
  const image = needImage(imageOf(running, running.step));
  const slot = slotOf(running, running.step);
  const { evidence } = await readyToWrite(running);
  const written = await writeOne(running, image, 'bootloader', slot);
  await running.link.restart('bootloader');
  await backInReach(running, 'bootloader');
  return [...evidence, written, ...(await keepBootloaderFacts(running)).evidence];
};

/** Where the apps of kits put what they made. */
const FOLDERS = ['/storage/Download', '/storage'] as const;
const stem = (text: string) => text.replace(/[^A-Za-z0-9.-]/g, '-');

/** The stock image and the kit go onto the handset; what comes back is proved here, whoever made it. */
const patchThere: Executor = async (running) => {
  const { step, link, rootPartition, bench, facts } = running;
  const build = buildOfStep(running, step, step.key === 'patch-there' ? 'its build' : 'the target');
  const stock = needImage(stockOf(running, rootPartition, build));
  const kit = kitFor(bench, stock.partition, facts.sdk);
  if (!kit) throw new EternoError('refused', 'No kit in the vault supports this release and partition.');
  const listed = async () => {
    const files: HandsetFile[] = [];
    for (const path of FOLDERS) files.push(...(await link.list(path)));
    return files.filter((file) => file.path.endsWith('.img'));
  };
  const sent = `/storage/${stem(`${stock.partition}-${stock.sha256.slice(0, 8)}`)}.img`;
  await pushFromVault(running, 'images', stock.sha256, sent);
  await pushKit(running, kit);
  const sentAt = (await listed()).find(({ path }) => path === sent)?.at ?? 0;
  // the newest that came after what was sent: an older one of the same name is another month's
  const made = await until(running, 'choose “Patch a file” on the handset', 30 * MINUTE, async () => {
    const [newest] = (await listed())
      .filter(({ path, at }) => path !== sent && at >= sentAt)
      .sort((one, two) => two.at - one.at);
    return newest?.path ?? null;
  });
  const bytes = await link.pull(made);
  const sha256 = await sha256Hex(nodeDigests, bytes);
  await storeImage(sha256, onePiece(bytes), { from: 'patch', stock: stock.sha256, kit: kit.sha256 });
  const { size } = memorySource(bytes, made);
  return [
    strong(`${made}: ${size} bytes fetched back, ${sha256}`),
    strong(`made by ${kit.kitId} ${kit.version} on the handset, proved here`),
  ];
};

export const THROUGH_RECOVERY = {
  'older-bootloader': bootloaderAlone,
  'bootloader-down': bootloaderAlone,
  'bootloader-back': bootloaderAlone,
  'recovery-once': recoveryOnce,
  'back-up-image': backUpImage,
  'recovery-inside': recoveryInside,
  'zip-inside': zipInside,
  'patch-there': patchThere,
  'patch-target-there': patchThere,
} as const satisfies Executors;

import 'server-only';
import { rootAppJudged } from '@/core/bench/root-app-judged';
import { rootAppWords } from '@/core/words/root-app';
import { knownFacts } from '../../services/fact-service';
import type { KeptImage } from '@/core/bench/bench';
import { memorySource } from '@/core/bytes/byte-source';
import { heldImage } from '@/core/slots/held-image';
import { sha256Hex } from '@/core/bytes/digest';
import { EternoError } from '@/core/errors';
import { lookInside } from '@/core/handset/look-inside';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { splitFingerprint } from '@/core/formats/facts/parse-facts';
import type { LinkTarget, UpdateRefusal } from '@/core/link/handset-link';
import { DEEDS } from '@/core/steps/deeds';
import { nodeDigests } from '@/platform/node/node-digests';
import { nodePorts } from '@/platform/node/node-ports';
import { openInVault, readProved } from '../../vault/vault';
import { findImage } from '../../repositories/image-repository';
import { storeImage } from '../../services/image-service';
import { kitFor } from '@/core/bench/judgements';
import { imageOf, patchedOf, slotOf } from '../round-context';
import { needRoot } from '../../services/link-service';
import { ifAnswers } from '@/core/link/if-answers';
import { onePiece } from '../../services/streams';
import type { Executor, Executors, StepRun } from './running';
import {
  keepSystemFacts,
  named,
  readyInside,
  strong,
  until,
  weak,
  whileWriting,
  readBackOf,
} from './running';
import { chosenLast } from '../../services/chosen-options';
import { needJudged } from './judged-write';
import { untilStarted } from './run-modes';
import { needImage } from './run-writes';

/* Steps of the running system: its updates, and what root does from inside. */

const MINUTE = 60_000;

/**
 * Root writes an image of the vault that may be written there, and it is read back; another hash is an error and
 * the partition is in doubt.
 * @param build what is to lie on that slot then; by default what the step is about
 */
export async function writeInside(
  running: StepRun,
  { partition, slot }: LinkTarget,
  bytes: Uint8Array,
  sha256: string,
  build?: string,
) {
  const name = named(partition, slot);
  const image = await findImage(sha256);
  if (!image) throw new EternoError('refused', 'The image is not in the vault any more.');
  await needJudged(
    running,
    { image, sizeBytes: bytes.length },
    { partition, slot, mode: 'system', ...(build === undefined ? {} : { build }) },
  );
  running.began(partition, slot);
  running.watch.onProgress({ phase: 'write', doneBytes: 0, totalBytes: bytes.length });
  await whileWriting(running, name, () => running.link.writeInside(name, bytes));
  running.watch.onProgress({ phase: 'read back', doneBytes: bytes.length, totalBytes: bytes.length });
  const read = await heldImage(
    memorySource(await running.link.read(name), name),
    [{ sha256, sizeBytes: bytes.length }],
    nodeDigests,
  );
  if (read.sha256 !== sha256)
    throw new EternoError('bad-hash', `${name} read back is ${read.sha256}, not the image that was written.`);
  running.wrote(partition, slot, sha256, 'read', 'written from inside and read back');
  return strong(`${name} read back: ${sha256}`);
}

async function writeFromVault(running: StepRun, image: KeptImage) {
  const bytes = await readProved('images', image.sha256);
  await readyInside(running);
  await needRoot(running.link);
  const { partition, sha256 } = image;
  return [await writeInside(running, { partition, slot: slotOf(running, running.step) }, bytes, sha256)];
}

const stockBack: Executor = (running) => writeFromVault(running, needImage(imageOf(running, running.step)));
const makeLasting: Executor = (running) => writeFromVault(running, needImage(imageOf(running, running.step)));

const REFUSED: Readonly<Record<UpdateRefusal, string>> = {
  'not-newer': 'it says that the update is not newer than what is installed',
  'not-stock': 'it refuses the update, because an image that the update starts from is not stock any more',
  merging: 'it says that the last update is still merging',
  other: 'it says why on its screen',
};

const takeUpdate: Executor = async (running) => {
  const { round, rootPartition, slotCount } = running;
  const { updateRefused: before } = await readyInside(running);
  const { update } = await until(running, 'take the update on the handset', 60 * MINUTE, async () => {
    const status = await ifAnswers(running.link.status());
    const refused = status?.updateRefused ?? null;
    if (refused !== null && refused.at !== before?.at)
      throw new EternoError('handset-refused', `The handset did not take it: ${REFUSED[refused.why]}.`);
    return status !== null && status.update !== null ? status : null;
  });
  if (round.target !== null && update!.build !== round.target)
    throw new EternoError(
      'handset-refused',
      `It took ${splitFingerprint(update!.build)?.id}, and another build was expected.`,
    );
  await keepSystemFacts(running);
  const slot = slotCount === 2 ? update!.slot : null;
  if (rootPartition !== null)
    running.tell({
      slots: [
        {
          slot,
          partition: rootPartition,
          sha256: null,
          certainty: 'predicted',
          reason: 'the stock image of the update that waits',
        },
      ],
    });
  return [
    strong(`the update to ${splitFingerprint(update!.build)?.id} waits on slot ${update!.slot}, not started`),
  ];
};

/**
 * The new stock image comes out of the slot that waits: kept, patched, proved here, and written back by root.
 */
const patchOtherSlot: Executor = async (running) => {
  const { link, round, rootPartition, bench, facts, watch } = running;
  const { update } = await readyInside(running);
  if (update === null || rootPartition === null)
    throw new EternoError('refused', 'No update waits on the other slot.');
  if (round.target !== null && update.build !== round.target)
    throw new EternoError('refused', 'Another build waits there than this round is about.');
  const name = named(rootPartition, update.slot);
  await needRoot(link);
  watch.onProgress({ phase: 'read', doneBytes: 0, totalBytes: 4 });
  const stock = await link.read(name);
  const inside = await lookInside(memorySource(stock, name), rootPartition, nodePorts);
  const stockSha = await sha256Hex(nodeDigests, stock);
  let patched = inside.patchedBy && patchedOf(running, update.build);
  if (patched && patched.sha256 === stockSha)
    return [strong(`${name} holds the proved image already: ${stockSha}`)];
  if (inside.broken !== null || inside.patchedBy !== null || inside.fingerprint !== update.build)
    throw new EternoError(
      'refused',
      `${name} is not the stock image of the update: ${inside.broken ?? inside.patchedBy?.kit ?? inside.fingerprint}. Nothing was written.`,
    );
  await storeImage(stockSha, onePiece(stock), { from: 'read-back', partition: rootPartition });
  const kit = kitFor(bench, rootPartition, facts.sdk);
  if (!kit) throw new EternoError('refused', 'No kit in the vault supports this release and partition.');
  watch.onProgress({ phase: 'patch', doneBytes: 1, totalBytes: 4 });
  const kitSource = await openInVault('kits', kit.sha256);
  try {
    const own = (await readKit(kitSource, nodePorts)).kit;
    // the way it was chosen before
    const chosen = await chosenLast(own, bench.images);
    const made = await patchImage(
      memorySource(stock, rootPartition),
      own,
      nodePorts,
      { chosen },
      { signal: watch.signal },
    );
    await storeImage(made.sha256, onePiece(made.bytes), {
      from: 'patch',
      stock: stockSha,
      kit: kit.sha256,
      options: JSON.stringify(chosen),
    });
    patched = { sha256: made.sha256 } as KeptImage;
    return [
      strong(`the stock image of the update was read from ${name}: ${stockSha}`),
      strong(`patched by ${kit.kitId} ${kit.version}, proved by the server`),
      await writeInside(
        running,
        { partition: rootPartition, slot: update.slot },
        made.bytes,
        made.sha256,
        update.build,
      ),
    ];
  } finally {
    await kitSource.close();
  }
};

const merge: Executor = async (running) => {
  await until(running, 'wait until it has merged', 4 * 60 * MINUTE, async () =>
    (await ifAnswers(running.link.status()))?.snapshot === 'none' ? true : null,
  );
  await keepSystemFacts(running);
  return [strong('the handset says that nothing is merging')];
};

const cancelUpdate: Executor = async (running) => {
  await until(running, 'call it off on the handset', 30 * MINUTE, async () =>
    (await ifAnswers(running.link.status()))?.update === null ? true : null,
  );
  await keepSystemFacts(running);
  return [strong('the handset says that no update waits')];
};

const openRoot: Executor = async (running) => {
  await until(running, 'start it on the handset', 30 * MINUTE, async () =>
    (await ifAnswers(running.link.status()))?.rootCommand === true ? true : null,
  );
  return [weak('the running system has a command that gives root, until its next restart')];
};

const undoInside: Executor = async (running) => {
  await until(running, 'take it off on the handset', 30 * MINUTE, async () =>
    (await ifAnswers(running.link.status()))?.rootApp === 'absent' ? true : null,
  );
  return [strong('the app that let root in is gone')];
};

const finishRootApp: Executor = async (running) => {
  await until(running, 'let the root app finish', 30 * MINUTE, async () =>
    (await ifAnswers(running.link.status()))?.rootApp === 'ready' ? true : null,
  );
  await keepSystemFacts(running);
  const judged = rootAppJudged(
    { facts: await knownFacts(running.handset.id), cells: running.subject.cells },
    running.bench,
    running.rootPartition,
  );
  const says = (judged?.findings ?? []).map(rootAppWords);
  if (judged?.fits === false) throw new EternoError('handset-refused', `The root app: ${says.join(' ')}`);
  return [
    strong('the root app asks for nothing more'),
    ...says.map((line) => strong(`the root app: ${line}`)),
  ];
};

/** Two kinds of evidence: a request that was granted after its prompt, and the image that runs, read back. */
const proveRoot: Executor = async (running) => {
  const { link, rootPartition, round, step, watch } = running;
  watch.onProgress({ phase: 'ask', doneBytes: 0, totalBytes: 2 });
  const uid = await needRoot(link);
  watch.onProgress({ phase: 'read back', doneBytes: 1, totalBytes: 2 });
  const slot = slotOf(running, running.step);
  const granted = strong(`root granted with user id ${uid}, after the prompt on the handset`);
  if (rootPartition === null) return [granted];
  const name = named(rootPartition, slot);
  const sha256 = await readBackOf(running, name);
  running.wrote(rootPartition, slot, sha256, 'read', 'read back with root');
  const expected = patchedOf(running, step.planned.build);
  const done = running.steps.filter(({ state }) => state === 'done');
  const fromMemory =
    done.some(({ key }) => DEEDS[key].root === 'from memory') &&
    !done.some(({ key }) => DEEDS[key].root === 'lasting');
  if (fromMemory || round.kind === 'root without unlocking')
    return [granted, strong(`${name} read back: ${sha256}; root runs and is not on disk`)];
  if (sha256 !== expected?.sha256)
    throw new EternoError('bad-hash', `${name} read back is ${sha256}, not the image that was written.`);
  running.tell({ root: { state: 'proven', why: 'granted and read back' } });
  return [granted, strong(`${name} read back: ${sha256}, the image that was written`)];
};

/** Nothing may grant root; that somebody denied it shows that something could have. */
const proveNoRoot: Executor = async ({ link, handset, tell }) => {
  const { granted, reason } = await link.root();
  if (granted) throw new EternoError('handset-refused', `Root is still there: ${handset.name} granted it.`);
  if (reason !== 'no-root')
    throw new EternoError(
      'handset-refused',
      'Root was denied on the handset: it is there, and was not granted.',
    );
  tell({ root: { state: 'stock', why: 'asked for, and nothing grants it' } });
  return [strong('root was asked for, and nothing on this system grants it')];
};

/** Once more, after a restart that nothing else asked for. */
export const restartAndProve: Executor = async (running) => {
  await running.link.restart('system');
  await untilStarted(running);
  await until(running, 'read', READ_MS, () => ifAnswers(keepSystemFacts(running)));
  return proveRoot(running);
};
const READ_MS = 60_000;

export const UPDATES = {
  'stock-back': stockBack,
  'stock-recovery-back': stockBack,
  'make-lasting': makeLasting,
  'take-update': takeUpdate,
  'take-full-update': takeUpdate,
  'patch-other-slot': patchOtherSlot,
  merge: merge,
  'cancel-update': cancelUpdate,
  'open-root': openRoot,
  'undo-inside': undoInside,
  'finish-root-app': finishRootApp,
  'prove-root': proveRoot,
  'prove-no-root': proveNoRoot,
} as const satisfies Executors;

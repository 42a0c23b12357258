import { randomBytes } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { nodePorts } from '@/platform/node/node-ports';
import { listImages } from '@/server/repositories/image-repository';
import { receiveBackup, restoreBackup } from '@/server/services/backup-service';
import { storeImage, storeKit } from '@/server/services/image-service';
import { jobEnded } from '@/server/services/jobs';
import { runStep } from '@/server/rounds/over-link';
import { throwAway } from '@/server/services/vault-service';
import { FINGERPRINT, kitZip, stockImage } from '../fixtures/images';
import { begin, version, walk } from '../fixtures/lane-walk';
import { laneWorld } from '../fixtures/lane-world';
import { pieces, sha256 } from '../fixtures/server-world';

/*
 * A child that works on a store until it is killed: `patches`, `restores FILE` or `writes`. It says when it
 * is at it.
 */

const say = (word: string) => process.stdout.write(`${word}\n`);

async function patches(): Promise<void> {
  const kitBytes = await kitZip();
  await storeKit(sha256(kitBytes), pieces(kitBytes), 'burrow.kit.zip');
  const { kit } = await readKit(memorySource(kitBytes), nodePorts);
  say('at it');
  for (;;) {
    // another stock image each time: its marker behind the last section
    const stock = await stockImage({ tail: new Uint8Array(randomBytes(64)) });
    const made = await patchImage(memorySource(stock, 'init_boot'), kit, nodePorts);
    await storeImage(sha256(stock), pieces(stock), { from: 'file' });
    await storeImage(made.sha256, pieces(made.bytes), {
      from: 'patch',
      stock: sha256(stock),
      kit: sha256(kitBytes),
    });
    say('one more');
  }
}

async function restores(path: string): Promise<void> {
  const backup = new Uint8Array(await readFile(path));
  say('at it');
  for (;;) {
    const { token } = await receiveBackup(pieces(backup));
    const job = await restoreBackup(token);
    await jobEnded(job.id);
    say('one more');
    // patched ones first: what they were made from is theirs as long as they are there
    for (const role of ['patched', 'stock', 'unknown'])
      for (const image of (await listImages()).filter((one) => one.role === role))
        await throwAway(image.sha256);
  }
}

async function writes(): Promise<void> {
  const world = await laneWorld();
  say(world.dir);
  const round = await begin(world, 'first root');
  await walk(world, round, { until: 'write-root' });
  say('at it');
  const job = await runStep(round, await version(round));
  await jobEnded(job.id);
  await walk(world, round);
  say(FINGERPRINT);
}

const [what, path] = process.argv.slice(2);
if (what === 'patches') await patches();
else if (what === 'restores') await restores(path!);
else await writes();

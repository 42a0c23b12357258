import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { EternoError } from '@/core/errors';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import { patchImage } from '@/core/patch/patch-image';
import { writeFileWhole } from '@/platform/node/file-sink';
import { nodePorts } from '@/platform/node/node-ports';
import { closeDatabase } from '@/server/db/connection';
import { dataDir } from '@/server/db/data-dir';
import { migrate } from '@/server/db/migrate';
import { storeImage, storeKit } from '@/server/services/image-service';
import { bootOf, initBootOf } from './demo-images';
import { burrowKit, KIT_FILE_NAME } from './demo-kit';
import { packageName } from './demo-package';
import { recordWorld } from './demo-records';
import { makeStandIn } from './demo-stand-in';
import { BUILDS } from './world';

/* Makes the demo world once: packages on disk, handsets and history in the database, the live stand-in. */

const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
async function* inOnePiece(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

async function make(): Promise<void> {
  const packages = join(dataDir(), 'packages');
  await mkdir(packages, { recursive: true });
  const kitBytes = await burrowKit();
  await writeFileWhole(join(packages, KIT_FILE_NAME), kitBytes);
  const kitSha = sha256(kitBytes);
  await storeKit(kitSha, inOnePiece(kitBytes), KIT_FILE_NAME);

  const packagesMade = Promise.all([makePackages('northGate'), makePackages('lookAlike')]);
  const months = { november: BUILDS.northGate.at(-1)!, october: BUILDS.northGate.at(-2)! };
  const own = { november: await initBootOf(months.november, 'ondine'), october: await initBootOf(months.october, 'ondine') };
  const boots = { november: await bootOf(months.november, 'ondine'), october: await bootOf(months.october, 'ondine') };

  const { kit } = await readKit(memorySource(kitBytes, KIT_FILE_NAME), nodePorts);
  const patched = await patchImage(memorySource(own.october, 'init_boot'), kit, nodePorts);
  const stockSha = sha256(own.october);
  await storeImage(stockSha, inOnePiece(own.october), {
    from: 'package',
    package: packageName(months.october),
    partition: 'init_boot',
    verified: 'yes',
  });
  await storeImage(sha256(boots.october), inOnePiece(boots.october), {
    from: 'package',
    package: packageName(months.october),
    partition: 'boot',
    verified: 'yes',
  });
  await storeImage(patched.sha256, inOnePiece(patched.bytes), { from: 'patch', stock: stockSha, kit: kitSha });
  await recordWorld({ octoberPatched: patched.sha256, octoberStock: stockSha, octoberBoot: sha256(boots.october) });
  await makeStandIn(dataDir(), { initBootA: own.november, initBootB: patched.bytes, bootA: boots.november, bootB: boots.october });
  await packagesMade;
}

async function makePackages(variant: 'northGate' | 'lookAlike'): Promise<void> {
  const child = spawn(process.execPath, [...process.execArgv, fileURLToPath(new URL('make-packages.ts', import.meta.url)), variant], {
    stdio: 'inherit',
  });
  const [code] = (await once(child, 'exit')) as [number | null];
  if (code !== 0) throw new EternoError('io', `the ${variant} packages could not be made`);
}

const marker = join(dataDir(), 'demo.json');
await mkdir(dataDir(), { recursive: true });
await migrate();
if (await stat(marker).catch(() => null)) {
  process.stdout.write('the demo world is there already\n');
} else {
  const began = Date.now();
  await make();
  await writeFileWhole(marker, new TextEncoder().encode('{"version":1}\n'));
  process.stdout.write(`made the demo world in ${((Date.now() - began) / 1000).toFixed(1)} s\n`);
}
await closeDatabase();

import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { EternoError, toEternoError } from '@/core/errors';
import { memorySource } from '@/core/bytes/byte-source';
import { readKit } from '@/core/kits/read-kit';
import { writeFileWhole } from '@/platform/node/file-sink';
import { nodePorts } from '@/platform/node/node-ports';
import { closeDatabase } from '@/server/db/connection';
import { dataDir, demoMarker } from '@/server/db/data-dir';
import { migrate } from '@/server/db/migrate';
import { storeKit } from '@/server/services/image-service';
import { inOnePiece, makeHandsets, sha256 } from './demo-handsets';
import { burrowKit, KIT_FILE_NAME } from './demo-kit';
import { recordWorld } from './demo-records';
import { makeDownloadPage } from './demo-page';
import { makeWayWorld } from './way-world';

/* Makes the demo world once: packages on disk, handsets and history in the database, the live stand-in. */

async function make(): Promise<void> {
  const packages = join(dataDir(), 'packages');
  await mkdir(packages, { recursive: true });
  if (way !== null) {
    await makeWayWorld(way, dataDir(), packages, Boolean(process.env.ETERNO_PRACTICE));
    return makeDownloadPage(dataDir());
  }
  const kitBytes = await burrowKit();
  await writeFileWhole(join(packages, KIT_FILE_NAME), kitBytes);
  const kitSha = sha256(kitBytes);
  await storeKit(kitSha, inOnePiece(kitBytes), KIT_FILE_NAME);

  const packagesMade = Promise.all([makePackages('northGate'), makePackages('lookAlike')]);
  const { kit } = await readKit(memorySource(kitBytes, KIT_FILE_NAME), nodePorts);
  await recordWorld(await makeHandsets(dataDir(), packages, kit, kitSha));
  await packagesMade;
  await makeDownloadPage(dataDir());
}

async function makePackages(variant: 'northGate' | 'lookAlike'): Promise<void> {
  const child = spawn(
    process.execPath,
    [...process.execArgv, fileURLToPath(new URL('make-packages.ts', import.meta.url)), variant],
    {
      stdio: 'inherit',
    },
  );
  const [code] = (await once(child, 'exit')) as [number | null];
  if (code !== 0) throw new EternoError('io', `the ${variant} packages could not be made`);
}

/** The piece of work to begin; null for the whole demo world. */
const way = process.env.ETERNO_DEMO_WAY === undefined ? null : Number(process.env.ETERNO_DEMO_WAY);
const marker = demoMarker();
/**
 * Lies there while the world is made: a run that was ended in its middle is cleared away, and nothing but its
 * own is in that folder.
 */
const begun = join(dataDir(), 'demo-begun.json');
await mkdir(dataDir(), { recursive: true });
const there = (path: string) => stat(path).catch(() => null);
if ((await there(begun)) && !(await there(marker)))
  for (const name of await readdir(dataDir()))
    await rm(join(dataDir(), name), { recursive: true, force: true });
if (!(await there(marker)) && !(await there(join(dataDir(), 'eterno.sqlite'))))
  await writeFileWhole(begun, new TextEncoder().encode('{"version":1}\n'));
await migrate().catch((thrown: unknown) => {
  process.stderr.write(`${toEternoError(thrown).message}\n`);
  process.exit(1);
});
if (await there(marker)) {
  process.stdout.write('the demo world is there already\n');
} else {
  const began = Date.now();
  await make();
  await writeFileWhole(marker, new TextEncoder().encode(`${JSON.stringify({ version: 1, way })}\n`));
  await rm(begun, { force: true });
  process.stdout.write(`made the demo world in ${((Date.now() - began) / 1000).toFixed(1)} s\n`);
}
await closeDatabase();

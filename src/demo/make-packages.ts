import { join } from 'node:path';
import { dataDir } from '@/server/db/data-dir';
import { bootOf, initBootOf } from './demo-images';
import { packageName, writeUpdatePackage } from './demo-package';
import { BUILDS } from './world';

/* One variant's two packages; a process of its own, so that both variants are made at once. Argument: the variant's name in `BUILDS`. */

const builds = process.argv[2] === 'lookAlike' ? BUILDS.lookAlike : BUILDS.northGate;
for (const build of builds.slice(-2)) {
  const images = { initBoot: await initBootOf(build, 'ondine'), boot: await bootOf(build, 'ondine') };
  await writeUpdatePackage(join(dataDir(), 'packages', packageName(build)), build, 'ondine', images);
}

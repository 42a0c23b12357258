import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { writeFileWhole } from '@/platform/node/file-sink';
import { dataDir } from '@/server/db/data-dir';
import { bootOf, initBootOf, plainOf } from './demo-images';
import type { PackageImages } from './demo-package';
import {
  incrementalName,
  packageName,
  writeArchive,
  writeIncrementalPackage,
  writeUpdatePackage,
} from './demo-package';
import { BUILDS } from './world';

/*
 * One variant's packages; a process of its own, so that both variants are made at once. Argument: the
 * variant's name in `BUILDS`.
 */

const variant = process.argv[2] === 'lookAlike' ? 'lookAlike' : 'northGate';
const builds = BUILDS[variant];
const pathOf = (name: string) => join(dataDir(), 'packages', name);
const text = (value: string) => new TextEncoder().encode(value);

async function sha256Of(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** What else lies in a download folder: a checksum list, a module, a package for the recovery. */
async function writeCompanions(names: readonly string[]): Promise<void> {
  const sums: string[] = [];
  for (const name of names) sums.push(`${await sha256Of(pathOf(name))}  ${name}`);
  await writeFileWhole(pathOf('petrel2_eu-sha256.txt'), text(`${sums.join('\n')}\n`));
  const note =
    'id=lantern\nname=Lantern\nversion=2.1\nversionCode=21\nauthor=Hill Club\ndescription=keeps the torch warm\n';
  await writeArchive(pathOf('lantern-2.1.zip'), [
    { name: 'module.prop', bytes: text(note), stored: false },
    { name: 'install.sh', bytes: text('mkdir -p "$TARGET/etc"\n'), stored: false },
    { name: 'system/etc/lantern.conf', bytes: text('warm=1\n'), stored: false },
  ]);
  const script =
    '#!/sbin/sh\n# Lifeboat installs itself beside the stock recovery\ndd if=lifeboat.img of=/dev/block/by-name/recovery\n';
  await writeArchive(pathOf('lifeboat-installer-3.8.zip'), [
    { name: 'META-INF/com/google/android/update-binary', bytes: text(script), stored: false },
    {
      name: 'META-INF/com/google/android/updater-script',
      bytes: text('# see update-binary\n'),
      stored: false,
    },
  ]);
}

const made: { readonly build: (typeof builds)[number]; readonly images: PackageImages }[] = [];
for (const build of builds.slice(-2)) {
  const images = {
    initBoot: await initBootOf(build, 'ondine'),
    boot: await bootOf(build, 'ondine'),
    system: await plainOf('system', build, 'ondine'),
  };
  await writeUpdatePackage(pathOf(packageName(build)), build, 'ondine', images);
  made.push({ build, images });
}
if (variant === 'northGate') {
  const [october, november] = made as [(typeof made)[number], (typeof made)[number]];
  const name = incrementalName(november.build, october.build);
  await writeIncrementalPackage(pathOf(name), november.build, 'ondine', {
    from: october.build,
    before: october.images,
    after: november.images,
  });
  await writeCompanions([packageName(october.build), packageName(november.build), name]);
}

import { appendAvbFooter } from '@/core/formats/avb/writer';
import { packOsVersion } from '@/core/formats/boot-image/layout';
import { writeBootImage } from '@/core/formats/boot-image/writer';
import type { CpioEntry } from '@/core/formats/cpio/cpio-archive';
import { archiveBytes, makeEntry, makeTrailer, TYPE } from '@/core/formats/cpio/cpio-archive';
import { nodePorts } from '@/platform/node/node-ports';
import { noise, programLike, seedOf } from './noise';
import type { DemoBuild } from './world';
import { fingerprintOf } from './world';

const MIB = 1024 * 1024;
export const INIT_BOOT_BYTES = 8 * MIB;
export const BOOT_BYTES = 32 * MIB;
/** Partitions of the smaller handsets, and what a whole build has besides. */
export const RAMDISK_BOOT_BYTES = 16 * MIB;
export const SMALL_BYTES = 2 * MIB;

function ramdiskOf(build: DemoBuild, more: Readonly<Record<string, string>> = {}): Uint8Array {
  let ino = 300000;
  const text = new TextEncoder();
  const entry = (name: string, mode: number, data: Uint8Array): CpioEntry => {
    const directory = (mode & 0o170000) === TYPE.directory;
    const fields = {
      ino: (ino += 1),
      mode,
      nlink: directory ? 2 : 1,
      uid: 0,
      gid: mode === (TYPE.file | 0o750) ? 2000 : 0,
      mtime: 0,
      devmajor: 0,
      devminor: 0,
      rdevmajor: 0,
      rdevminor: 0,
    };
    return makeEntry('070701', false, fields, text.encode(name), data);
  };
  const directory = (name: string) => entry(name, TYPE.directory | 0o755, new Uint8Array(0));
  const entries = [
    ...[
      'debug_ramdisk',
      'dev',
      'first_stage_ramdisk',
      'metadata',
      'mnt',
      'proc',
      'second_stage_resources',
      'sys',
      'system',
      'system/etc',
      'system/etc/ramdisk',
    ].map(directory),
    entry('init', TYPE.file | 0o750, programLike(seedOf(`init ${build.buildId}`), 2_340_112)),
    entry(
      'first_stage_ramdisk/fstab.demo',
      TYPE.file | 0o644,
      text.encode(
        'system /system ext4 ro wait,verify,logical,slotselect\ndata /data f2fs rw wait,check,fileencryption\n',
      ),
    ),
    entry(
      'system/etc/ramdisk/build.prop',
      TYPE.file | 0o644,
      text.encode(
        `ro.bootimage.build.id=${build.buildId}\nro.bootimage.build.version.incremental=${build.incremental}\n`,
      ),
    ),
    entry('sbin-link', TYPE.link | 0o777, text.encode('/system/bin/init')),
    ...Object.entries(more).map(([name, content]) => entry(name, TYPE.file | 0o644, text.encode(content))),
  ];
  return archiveBytes({ entries, trailer: makeTrailer() });
}

function footerParts(
  partition: string,
  build: DemoBuild,
  brand: string,
  partitionBytes: number,
  index = Math.floor(build.publishedAt / 1000),
) {
  const prefix = `com.android.build.${partition}`;
  return {
    partition,
    partitionBytes,
    salt: noise(seedOf(`${partition} ${build.product} ${build.buildId}`), 32),
    rollbackIndex: index,
    release: 'trail club 1.0',
    properties: {
      [`${prefix}.fingerprint`]: fingerprintOf(build, brand),
      [`${prefix}.os_version`]: build.release,
      [`${prefix}.security_patch`]: build.patchLevel,
    },
  };
}

const osVersion = (build: DemoBuild) =>
  packOsVersion(
    [Number(build.release), 0, 0],
    [Number(build.patchLevel.slice(0, 4)), Number(build.patchLevel.slice(5, 7))],
  );

/** A build's init_boot, stock: version 4, no kernel, one lz4 ramdisk, verified-boot footer. */
export async function initBootOf(build: DemoBuild, brand: string): Promise<Uint8Array<ArrayBuffer>> {
  const ramdisk = await nodePorts.codecs.encode('lz4-legacy', ramdiskOf(build));
  const image = writeBootImage({
    version: 4,
    pageSize: 4096,
    osVersionField: osVersion(build),
    name: '',
    cmdline: '',
    kernel: new Uint8Array(0),
    ramdisk,
  });
  return appendAvbFooter(image, footerParts('init_boot', build, brand, INIT_BOOT_BYTES), nodePorts.digests);
}

/** A build's boot, stock: a kernel of which a few mebibytes pack well, no ramdisk. */
export async function bootOf(build: DemoBuild, brand: string): Promise<Uint8Array<ArrayBuffer>> {
  const kernel = new Uint8Array(14 * MIB + 4321);
  const seed = seedOf(`kernel ${build.buildId}`);
  kernel.set(programLike(seed, 4 * MIB));
  // what the months have in common
  kernel.set(noise(seedOf(`kernel ${build.product}`), 10 * MIB), 4 * MIB);
  kernel.set(programLike(seed + 2, 4321), 14 * MIB);
  const image = writeBootImage({
    version: 4,
    pageSize: 4096,
    osVersionField: osVersion(build),
    name: '',
    cmdline: '',
    kernel,
    ramdisk: new Uint8Array(0),
    signature: noise(seed + 3, 4096),
  });
  return appendAvbFooter(image, footerParts('boot', build, brand, BOOT_BYTES), nodePorts.digests);
}

/** A boot or recovery image with kernel and ramdisk, of a handset whose root sits in boot. */
export async function ramdiskBootOf(
  build: DemoBuild,
  brand: string,
  partition: 'boot' | 'recovery' = 'boot',
): Promise<Uint8Array<ArrayBuffer>> {
  const image = await bootWithRamdisk(build, partition, {});
  return appendAvbFooter(image, footerParts(partition, build, brand, RAMDISK_BOOT_BYTES), nodePorts.digests);
}

async function bootWithRamdisk(
  build: DemoBuild,
  partition: string,
  more: Readonly<Record<string, string>>,
): Promise<Uint8Array<ArrayBuffer>> {
  return writeBootImage({
    version: 2,
    pageSize: 2048,
    osVersionField: osVersion(build),
    name: build.device,
    cmdline: 'console=null',
    kernel: noise(seedOf(`kernel ${partition} ${build.product}`), 3 * MIB),
    ramdisk: await nodePorts.codecs.encode('gzip', ramdiskOf(build, more)),
  });
}

/** The club's own recovery for a handset: it names itself and belongs to no build. */
export async function lifeboatOf(
  build: DemoBuild,
  version: string,
  opensUpTo: number,
): Promise<Uint8Array<ArrayBuffer>> {
  const note = JSON.stringify({ recovery: `Lifeboat ${version}`, opensUpTo });
  const image = await bootWithRamdisk(build, 'lifeboat', { 'lifeboat.json': note });
  const parts = { ...footerParts('recovery', build, 'club', RAMDISK_BOOT_BYTES), properties: {} };
  return appendAvbFooter(image, parts, nodePorts.digests);
}

/** A system, bootloader, radio or any other: bytes that name their build; a bootloader's index is its level. */
export function plainOf(
  partition: string,
  build: DemoBuild,
  brand: string,
  level = 1,
): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = noise(
    seedOf(`${partition} ${build.product} ${build.buildId}`),
    partition === 'system' ? MIB : 200_000,
  );
  return appendAvbFooter(bytes, footerParts(partition, build, brand, SMALL_BYTES, level), nodePorts.digests);
}
